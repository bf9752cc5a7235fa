import Form from "react-bootstrap/Form";
import type { MendStep } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { LengthField } from "../../ui/LengthField";
import { NumberField } from "../../ui/NumberField";
import { StepHead } from "../../ui/StepHead";
import { Button } from "../../ui/Button";
import { MENDS } from "./mendKinds";
import { useOutlineStore } from "../../state/outlineStore";

type Change = (what: string, change: Record<string, unknown>) => void;

interface Props {
  step: MendStep;
  onChange: Change;
  onRemove: () => void;
}

/** One mending step: switchable, its measures editable. */
export function MendRow({ step, onChange, onRemove }: Props) {
  const { title, hint, chooses } = MENDS[step.kind];
  const count = "chosen" in step ? step.chosen.length : 0;
  return (
    <section className="opening" aria-label={title}>
      <StepHead title={title} on={step.on} onSwitch={(on) => onChange(on ? "on" : "off", { on })} onRemove={onRemove} removeLabel={`Remove: ${title}`} />
      <p className="quiet-label mb-1">
        {hint} {chooses && (count ? `${count} chosen.` : step.kind === "delete" ? "None chosen." : "All of them.")}
      </p>
      <MendFields step={step} onChange={onChange} />
    </section>
  );
}

const SIDES = ["left", "middle", "right", "bottom", "centre", "top"].map((value) => ({ value, label: value }));
const JOINS = [
  { value: "round", label: "Round" },
  { value: "mitre", label: "Sharp" },
  { value: "bevel", label: "Cut off" },
];
const HOWS = [
  { value: "union", label: "Together" },
  { value: "difference", label: "Largest less others" },
  { value: "crossing", label: "What they share" },
];
const MIRRORS = [
  { value: "none", label: "As it is" },
  { value: "left-right", label: "Left–right" },
  { value: "up-down", label: "Up–down" },
];
const ALONGS = [
  { value: "row", label: "Row" },
  { value: "grid", label: "Grid" },
  { value: "ring", label: "Ring" },
];

function MendFields({ step, onChange }: Pick<Props, "step" | "onChange">) {
  const length = (label: string, name: string, value: number, lowest: number, highest: number, by = 0.1) => (
    <LengthField key={name} label={label} value={value} lowest={lowest} highest={highest} step={by} onKeep={(next) => onChange(`${label.toLowerCase()} ${next} mm`, { [name]: next })} />
  );
  const number = (label: string, name: string, value: number, unit: string, lowest: number, highest: number, by = 1, whole = false) => (
    <NumberField key={name} label={label} value={value} unit={unit} whole={whole} lowest={lowest} highest={highest} step={by} onKeep={(next) => onChange(`${label.toLowerCase()} ${next}`, { [name]: next })} />
  );
  const choice = (label: string, name: string, value: string, options: { value: string; label: string }[]) => (
    <Choice key={name} label={label} value={value} options={options} onChange={(next) => onChange(next, { [name]: next })} />
  );
  switch (step.kind) {
    case "drop-tiny":
      return number("Smallest part kept", "smallest_mm2", step.smallest_mm2, "mm²", 0.0001, 100_000, 0.1);
    case "close-gaps":
      return length("Largest gap", "reach_mm", step.reach_mm, 0.001, 100);
    case "move":
      return (
        <div className="field-pairs">
          {length("To the right", "x_mm", step.x_mm, -3000, 3000, 0.5)}
          {length("Upwards", "y_mm", step.y_mm, -3000, 3000, 0.5)}
          {number("Turn", "turn_deg", step.turn_deg, "°", -360, 360)}
          {number("Scale", "scale", step.scale, "×", 0.01, 100, 0.05)}
          {choice("Mirror", "mirror", step.mirror, MIRRORS)}
          <Form.Check
            id={`about-${step.id}`}
            type="switch"
            label="About a picked place"
            checked={step.about != null}
            onChange={(event) => onChange("about", { about: event.currentTarget.checked ? [0.5, 0.5] : null })}
          />
          {step.about != null && <PlaceFields place={step.about} onKeep={(about) => onChange("about", { about })} />}
        </div>
      );
    case "align":
      return choice("Side", "side", step.side, SIDES);
    case "spread":
      return (
        <>
          {choice("Along", "along", step.along, ALONGS)}
          <div className="field-pairs">
            {number("How many", "count", step.count, "", 1, 400, 1, true)}
            {step.along === "grid" && number("Rows", "rows", step.rows, "", 1, 400, 1, true)}
            {step.along !== "ring" && length("To the right", "x_mm", step.x_mm, -3000, 3000, 0.5)}
            {step.along !== "ring" && length("Upwards", "y_mm", step.y_mm, -3000, 3000, 0.5)}
            {step.along === "ring" && <PlaceFields place={step.about} onKeep={(about) => onChange("middle of the ring", { about })} />}
          </div>
        </>
      );
    case "combine":
      return choice("Combined by", "how", step.how, HOWS);
    case "offset":
      return (
        <>
          {length("Outwards by", "by_mm", step.by_mm, -500, 500)}
          {choice("Corners", "join", step.join, JOINS)}
        </>
      );
    case "simplify":
      return length("Largest distance", "tolerance_mm", step.tolerance_mm, 0.001, 20, 0.01);
    case "widen":
      return (
        <div className="field-pairs">
          {length("Where narrower than", "narrower_than_mm", step.narrower_than_mm, 0.05, 50)}
          {length("Wider by", "by_mm", step.by_mm, 0.01, 50)}
        </div>
      );
    case "node":
      return step.action === "move" ? (
        <div className="field-pairs">
          {length("To the right", "x_mm", step.x_mm, -3000, 3000)}
          {length("Upwards", "y_mm", step.y_mm, -3000, 3000)}
        </div>
      ) : (
        <p className="mb-0">{step.action === "insert" ? "One more." : step.action === "remove" ? "Removed." : `Made ${step.action}.`}</p>
      );
    case "motif":
      return (
        <>
          <p className="mb-1">
            {step.file.name}
            {step.file.motif ? ", followed" : ", a copy"}
          </p>
          <div className="field-pairs">
            {length("Motif width", "wide_mm", step.wide_mm, 0.1, 3000, 0.5)}
            {number("Turn", "turn_deg", step.turn_deg, "°", -360, 360)}
            <PlaceFields place={step.place} onKeep={(place) => onChange("moved", { place })} />
          </div>
          <Form.Check id={`mirror-${step.id}`} type="switch" label="Mirrored" checked={step.mirror} onChange={(event) => onChange("mirrored", { mirror: event.currentTarget.checked })} />
        </>
      );
    default:
      return null;
  }
}

/** A place in shares of the source's width; the last press on the Plan can be taken for it. */
function PlaceFields({ place, onKeep }: { place: readonly number[]; onKeep: (place: [number, number]) => void }) {
  const pressed = useOutlineStore((state) => state.pressed);
  const [x = 0, y = 0] = place;
  return (
    <>
      <NumberField label="From the left" unit="" share value={x} lowest={-10} highest={10} step={0.01} onKeep={(next) => onKeep([next, y])} />
      <NumberField label="From below" unit="" share value={y} lowest={-10} highest={10} step={0.01} onKeep={(next) => onKeep([x, next])} />
      <Button size="sm" variant="outline-secondary" disabled={!pressed} onClick={() => pressed && onKeep(pressed)}>
        Where I pressed last
      </Button>
    </>
  );
}
