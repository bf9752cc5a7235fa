import type { ModelStep } from "../../api/client";

export type StepKind = ModelStep["kind"];

export const STEPS: Record<StepKind, { title: string; hint: string }> = {
  repair: { title: "Repair", hint: "Drops faces that are none, turns faces outward, fills holes, joins parts that overlap." },
  "keep-parts": { title: "Keep some parts", hint: "Parts that hang together, sorted by size; what is not chosen goes." },
  remesh: { title: "Make the surface anew", hint: "Even triangles from a lattice, closed whatever it was before. Finer detail is lost." },
  cut: { title: "Cut by a plane", hint: "One side stays and the cut is closed. The model has to be closed." },
};

/** What a new step is like; the page shows it before the server has kept it. */
const FRESH: Record<StepKind, Record<string, unknown>> = {
  repair: {},
  "keep-parts": { largest: 1, chosen: [] },
  remesh: { voxel_mm: 0.5, keep_edges: true },
  cut: { axis: "z", at_mm: 0, keep: "above" },
};

/** A whole step with an id of its own. */
export function newStep(kind: string, parameters: Record<string, unknown> = {}): Record<string, unknown> {
  const fresh = kind in FRESH ? FRESH[kind as StepKind] : {};
  return { kind, id: globalThis.crypto.randomUUID().slice(0, 8), on: true, ...fresh, ...parameters };
}

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
