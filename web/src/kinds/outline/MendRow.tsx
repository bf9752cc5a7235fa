import Form from "react-bootstrap/Form";
import type { MendStep } from "../../api/client";
import { fieldNamed, type PartField, type PartSchema } from "../../api/parts";
import { useOutlineStore } from "../../state/outlineStore";
import { Button } from "../../ui/Button";
import { NumberField } from "../../ui/NumberField";
import { StepHead } from "../../ui/StepHead";
import { RowFields } from "../common/fields/RowFields";
import { chooses } from "./mendKinds";

type Change = (what: string, change: Record<string, unknown>) => void;

interface Props {
  part: PartSchema | undefined;
  step: MendStep;
  onChange: Change;
  onRemove: () => void;
}

/** One mending step: switchable, its measures editable. */
export function MendRow({ part, step, onChange, onRemove }: Props) {
  if (!part) return null;
  const { heading, hint } = part;
  const count = "chosen" in step ? step.chosen.length : 0;
  return (
    <section className="opening" aria-label={heading}>
      <StepHead title={heading} on={step.on} onSwitch={(on) => onChange(on ? "on" : "off", { on })} onRemove={onRemove} removeLabel={`Remove: ${heading}`} />
      <p className="quiet-label mb-1">
        {hint} {chooses(part) && (count ? `${count} chosen.` : step.kind === "delete" ? "None chosen." : "All of them.")}
      </p>
      <div className="field-pairs">
        <RowFields part={part} row={step} onKeep={onChange} />
      </div>
      <PlacesOfStep part={part} step={step} onChange={onChange} />
    </section>
  );
}

/** What a step holds besides plain parameters: places, the file of a motif, what was done to a node. */
function PlacesOfStep({ part, step, onChange }: Omit<Props, "onRemove" | "part"> & { part: PartSchema }) {
  switch (step.kind) {
    case "move":
      return (
        <>
          <Form.Check
            id={`about-${step.id}`}
            type="switch"
            label={fieldNamed(part, "about").label}
            checked={step.about != null}
            onChange={(event) => onChange("about", { about: event.currentTarget.checked ? [0.5, 0.5] : null })}
          />
          {step.about != null && <PlaceFields field={fieldNamed(part, "about")} place={step.about} onKeep={(about) => onChange("about", { about })} />}
        </>
      );
    case "spread":
      return step.along === "ring" ? <PlaceFields field={fieldNamed(part, "about")} place={step.about} onKeep={(about) => onChange("middle of the ring", { about })} /> : null;
    case "node":
      return step.action === "move" ? null : <p className="mb-0">{fieldNamed(part, "action").choices[step.action]}.</p>;
    case "motif":
      return (
        <>
          <p className="mb-1">
            {step.file.name}
            {step.file.motif ? ", followed" : ", a copy"}
          </p>
          <PlaceFields field={fieldNamed(part, "place")} place={step.place} onKeep={(place) => onChange("moved", { place })} />
        </>
      );
    default:
      return null;
  }
}

/** A place in shares of the source's width; the last press on the Plan can be taken for it. */
function PlaceFields({ field, place, onKeep }: { field: PartField; place: readonly number[]; onKeep: (place: [number, number]) => void }) {
  const pressed = useOutlineStore((state) => state.pressed);
  const [x = 0, y = 0] = place;
  const share = { unit: "", share: true, lowest: field.lowest ?? 0, highest: field.highest ?? 1, step: 0.01 };
  return (
    <div className="field-pairs">
      <NumberField {...share} label="From the left" value={x} onKeep={(next) => onKeep([next, y])} />
      <NumberField {...share} label="From below" value={y} onKeep={(next) => onKeep([x, next])} />
      <Button size="sm" variant="outline-secondary" disabled={!pressed} onClick={() => pressed && onKeep(pressed)}>
        Where I pressed last
      </Button>
    </div>
  );
}
