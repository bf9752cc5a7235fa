import type { ModelStep } from "../../../api/client";

/** The list with one step changed. */
export function withStepChanged(steps: readonly ModelStep[], id: string, change: Record<string, unknown>): ModelStep[] {
  return steps.map((step) => (step.id === id ? ({ ...step, ...change } as ModelStep) : step));
}

/** The list with one step a place earlier or later. */
export function withStepMoved(steps: readonly ModelStep[], id: string, by: -1 | 1): ModelStep[] {
  const at = steps.findIndex((step) => step.id === id);
  const to = at + by;
  if (at < 0 || to < 0 || to >= steps.length) return [...steps];
  const others = steps.filter((_, i) => i !== at);
  const step = steps[at];
  return step ? [...others.slice(0, to), step, ...others.slice(to)] : [...steps];
}
