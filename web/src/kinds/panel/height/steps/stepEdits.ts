export interface Step {
  tone: number;
  mm: number;
}

/** The table with one row changed. */
export function withStepChanged(steps: readonly Step[], at: number, change: Partial<Step>): Step[] {
  return steps.map((step, i) => (i === at ? { ...step, ...change } : step));
}

/** The table without a row; two always stay. */
export function withoutStep(steps: readonly Step[], at: number): Step[] {
  return steps.length <= 2 ? [...steps] : steps.filter((_, i) => i !== at);
}

/** The table with a row in the middle of the widest span of tones, half way up between its neighbours. */
export function withStepAdded(steps: readonly Step[]): Step[] {
  let place = 1;
  let widest = -1;
  for (let at = 1; at < steps.length; at += 1) {
    const span = (steps[at]?.tone ?? 0) - (steps[at - 1]?.tone ?? 0);
    if (span > widest) [place, widest] = [at, span];
  }
  const before = steps[place - 1] ?? { tone: 0, mm: 0 };
  const after = steps[place] ?? { tone: 1, mm: 0 };
  const added = { tone: rounded((before.tone + after.tone) / 2), mm: rounded((before.mm + after.mm) / 2) };
  return [...steps.slice(0, place), added, ...steps.slice(place)];
}

function rounded(value: number): number {
  return Math.round(value * 1000) / 1000;
}
