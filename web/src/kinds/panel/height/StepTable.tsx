import { useQuery } from "@tanstack/react-query";
import { fieldNamed } from "../../../api/parts";
import { fetchSteps } from "../../../api/steps";
import { usePartSchemas } from "../../../state/partSchemas";
import { Button } from "../../../ui/Button";
import { LengthField } from "../../../ui/LengthField";
import { NumberField } from "../../../ui/NumberField";
import { patchAt } from "../../common/fields/patchAt";
import type { StationProps } from "../../common/stationProps";
import { withoutStep, withStepAdded, withStepChanged, type Step } from "./stepEdits";

/** The table of steps: every tone with its swatch, its share of the picture and its height. */
export function StepTable({ pieceId, revision, document, editing }: StationProps) {
  const steps: readonly Step[] = document.height.rule.steps;
  const mm = fieldNamed(usePartSchemas().part(document, "height.rule.steps"), "mm");
  const weighed = useQuery({
    queryKey: ["steps", pieceId, revision, steps],
    queryFn: () => fetchSteps(pieceId, patchAt("height.rule.steps", steps)),
    placeholderData: (before) => before,
  }).data;
  const table = (next: readonly Step[]) => patchAt("height.rule.steps", next);
  return (
    <div role="group" aria-label="Table of steps" className="step-table">
      {steps.map((step, at) => (
        <div key={at} className="step-line">
          <span className="tone-chip" style={{ background: gray(step.tone) }} />
          <NumberField
            label={`Tone of step ${at + 1}`}
            share
            unit=""
            value={step.tone}
            lowest={(steps[at - 1]?.tone ?? -0.005) + 0.005}
            highest={(steps[at + 1]?.tone ?? 1.005) - 0.005}
            step={0.01}
            onKeep={(tone) => editing.keep(`Step ${at + 1} at ${Math.round(tone * 100)} %`, table(withStepChanged(steps, at, { tone })))}
          />
          <LengthField
            label={`Height of step ${at + 1}`}
            value={step.mm}
            lowest={mm.lowest ?? 0}
            highest={mm.highest ?? 200}
            step={mm.step}
            onKeep={(mm) => editing.keep(`Step ${at + 1} ${mm} mm`, table(withStepChanged(steps, at, { mm })))}
          />
          <span className="quiet-label" title="Share of the picture">
            {weighed ? `${Math.round((weighed.table[at]?.share ?? 0) * 100)} %` : ""}
          </span>
          <button
            type="button"
            className="icon-button"
            aria-label={`Remove step ${at + 1}`}
            disabled={steps.length <= 2}
            onClick={() => editing.keep(`Step ${at + 1} removed`, table(withoutStep(steps, at)))}
          >
            <i className="bi bi-x-lg" aria-hidden="true" />
          </button>
        </div>
      ))}
      <div className="d-flex gap-2">
        <Button
          size="sm"
          variant="outline-secondary"
          disabled={!weighed}
          onClick={() => weighed && editing.keep("Steps from the tones present", table(weighed.found.map(({ tone, mm }) => ({ tone, mm }))))}
        >
          From the tones present
        </Button>
        <Button size="sm" variant="outline-secondary" onClick={() => editing.keep("Step added", table(withStepAdded(steps)))}>
          Add a step
        </Button>
      </div>
    </div>
  );
}

function gray(tone: number): string {
  const part = Math.round(tone * 255);
  return `rgb(${part} ${part} ${part})`;
}
