import type { ReactNode } from "react";
import { fieldNamed } from "../../../../api/parts";
import { usePartSchemas } from "../../../../state/partSchemas";
import { Button } from "../../../../ui/Button";
import { LengthField } from "../../../../ui/LengthField";
import { NumberField } from "../../../../ui/NumberField";
import { withoutStep, withStepAdded, withStepChanged, type Step } from "./stepEdits";

interface Props {
  steps: readonly Step[];
  /** Of every step, its share of the picture, where that is known. */
  shares?: readonly (number | undefined)[];
  /** Further ways to fill the table. */
  children?: ReactNode;
  onKeep: (what: string, steps: Step[]) => void;
}

/** Steps by tone and height, one below the other. */
export function StepRows({ steps, shares, children, onKeep }: Props) {
  const mm = fieldNamed(usePartSchemas().named("Step"), "mm");
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
            onKeep={(tone) => onKeep(`Step ${at + 1} at ${Math.round(tone * 100)} %`, withStepChanged(steps, at, { tone }))}
          />
          <LengthField
            label={`Height of step ${at + 1}`}
            value={step.mm}
            lowest={mm.lowest ?? 0}
            highest={mm.highest ?? 200}
            step={mm.step}
            onKeep={(height) => onKeep(`Step ${at + 1} ${height} mm`, withStepChanged(steps, at, { mm: height }))}
          />
          <span className="quiet-label" title="Share of the picture">
            {shares ? `${Math.round((shares[at] ?? 0) * 100)} %` : ""}
          </span>
          <button
            type="button"
            className="icon-button"
            aria-label={`Remove step ${at + 1}`}
            disabled={steps.length <= 2}
            onClick={() => onKeep(`Step ${at + 1} removed`, withoutStep(steps, at))}
          >
            <i className="bi bi-x-lg" aria-hidden="true" />
          </button>
        </div>
      ))}
      <div className="d-flex gap-2">
        {children}
        <Button size="sm" variant="outline-secondary" onClick={() => onKeep("Step added", withStepAdded(steps))}>
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
