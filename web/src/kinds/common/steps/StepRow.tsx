import type { ModelStep } from "../../../api/client";
import type { PartSchema } from "../../../api/parts";
import { StepHead } from "../../../ui/StepHead";
import { RowFields } from "../fields/RowFields";
import { PartsList } from "./PartsList";

interface Props {
  pieceId: string;
  revision: number;
  part: PartSchema | undefined;
  step: ModelStep;
  /** What it changed. */
  outcome: string | undefined;
  first: boolean;
  last: boolean;
  onChange: (what: string, change: Record<string, unknown>) => void;
  onMove: (by: -1 | 1) => void;
  onRemove: () => void;
}

/** One step on a model. */
export function StepRow({ pieceId, revision, part, step, outcome, first, last, onChange, onMove, onRemove }: Props) {
  if (!part) return null;
  const { heading: title, hint } = part;
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
      {step.kind === "keep-parts" ? (
        <ChosenParts pieceId={pieceId} revision={revision} part={part} step={step} onChange={onChange} />
      ) : (
        <RowFields part={part} row={step} onKeep={onChange} />
      )}
      {step.on && outcome && (
        <p className="mb-0" data-testid={`outcome-${step.kind}`}>
          <i className="bi bi-check2 me-1" aria-hidden="true" />
          {outcome}.
        </p>
      )}
    </section>
  );
}

/** The parts of the model to choose from, below how many are kept. */
function ChosenParts({ pieceId, revision, part, step, onChange }: Pick<Props, "pieceId" | "revision" | "onChange"> & { part: PartSchema; step: Extract<ModelStep, { kind: "keep-parts" }> }) {
  const chosen = step.chosen.length > 0 ? step.chosen : Array.from({ length: step.largest }, (_, at) => at + 1);
  return (
    <>
      <RowFields part={part} row={{ ...step, largest: chosen.length }} only={["largest"]} onKeep={(_, { largest }) => onChange(`${largest} kept`, { largest, chosen: [] })} />
      <PartsList pieceId={pieceId} revision={revision} stepId={step.id} chosen={chosen} onChange={(next) => onChange("parts chosen", { chosen: next })} />
    </>
  );
}
