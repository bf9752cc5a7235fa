import Form from "react-bootstrap/Form";
import type { ModelStep } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { LengthField } from "../../ui/LengthField";
import { NumberField } from "../../ui/NumberField";
import { StepHead } from "../../ui/StepHead";
import { STEPS } from "./modelSteps";
import { PartsList } from "./PartsList";

const AXES = [
  { value: "x", label: "X" },
  { value: "y", label: "Y" },
  { value: "z", label: "Z" },
] as const;
const SIDES = [
  { value: "above", label: "Above" },
  { value: "below", label: "Below" },
] as const;

interface Props {
  pieceId: string;
  revision: number;
  step: ModelStep;
  /** What it changed. */
  told: string | undefined;
  first: boolean;
  last: boolean;
  onChange: (what: string, change: Record<string, unknown>) => void;
  onMove: (by: -1 | 1) => void;
  onRemove: () => void;
}

/** One step on a model. */
export function StepRow({ pieceId, revision, step, told, first, last, onChange, onMove, onRemove }: Props) {
  const { title, hint } = STEPS[step.kind];
  return (
    <section className="opening" aria-label={title}>
      <StepHead title={title} on={step.on} onSwitch={(on) => onChange(on ? "on" : "off", { on })} onRemove={onRemove} removeLabel={`Remove: ${title}`}>
        <button type="button" className="icon-button" aria-label={`${title}: earlier`} disabled={first} onClick={() => onMove(-1)}>
          <i className="bi bi-arrow-up" aria-hidden="true" />
        </button>
        <button type="button" className="icon-button" aria-label={`${title}: later`} disabled={last} onClick={() => onMove(1)}>
          <i className="bi bi-arrow-down" aria-hidden="true" />
        </button>
      </StepHead>
      <p className="quiet-label mb-1">{hint}</p>
      <StepFields pieceId={pieceId} revision={revision} step={step} onChange={onChange} />
      {step.on && told && (
        <p className="mb-0" data-testid={`told-${step.kind}`}>
          <i className="bi bi-check2 me-1" aria-hidden="true" />
          {told}.
        </p>
      )}
    </section>
  );
}

function StepFields({ pieceId, revision, step, onChange }: Pick<Props, "pieceId" | "revision" | "step" | "onChange">) {
  switch (step.kind) {
    case "repair":
      return null;
    case "keep-parts":
      return (
        <>
          <NumberField
            label="Parts kept, the largest first"
            unit=""
            whole
            value={step.chosen.length || step.largest}
            lowest={1}
            highest={10_000}
            step={1}
            onKeep={(largest) => onChange(`${largest} kept`, { largest, chosen: [] })}
          />
          <PartsList
            pieceId={pieceId}
            revision={revision}
            stepId={step.id}
            chosen={step.chosen.length > 0 ? step.chosen : Array.from({ length: step.largest }, (_, at) => at + 1)}
            onChange={(chosen) => onChange("parts chosen", { chosen })}
          />
        </>
      );
    case "remesh":
      return (
        <>
          <LengthField
            label="Voxel"
            value={step.voxel_mm}
            lowest={0.001}
            highest={1000}
            step={0.05}
            onKeep={(voxel_mm) => onChange(`voxel ${voxel_mm} mm`, { voxel_mm })}
          />
          <Form.Check
            id={`edges-${step.id}`}
            type="switch"
            label="Keep sharp edges"
            checked={step.keep_edges}
            onChange={(event) => onChange("sharp edges", { keep_edges: event.currentTarget.checked })}
          />
        </>
      );
    case "cut":
      return (
        <>
          <Choice label="Axis of the cut" value={step.axis} options={AXES} onChange={(axis) => onChange(`across ${axis}`, { axis })} />
          <LengthField
            label="From the lower end"
            value={step.at_mm}
            lowest={0}
            highest={1e6}
            step={0.5}
            onKeep={(at_mm) => onChange(`at ${at_mm} mm`, { at_mm })}
          />
          <Choice label="Side that stays" value={step.keep} options={SIDES} onChange={(keep) => onChange(`${keep} stays`, { keep })} />
        </>
      );
  }
}
