import { expect, test } from "vitest";
import { heightOn, meanHeights, ruleLine, type Rule } from "./ruleCurve";

const RULE = { kind: "straight", tall: "bright", relief_mm: 3, points: [], steps: [], strength: 0.5 } as unknown as Rule;

test("an even rule goes from nothing at black to the relief height at white", () => {
  expect(ruleLine(RULE)).toEqual([[0, 0], [1, 3]]);
  expect(ruleLine({ ...RULE, tall: "dark" })).toEqual([[0, 3], [1, 0]]);
});

test("steps change half way between their tones", () => {
  const steps = [{ tone: 0, mm: 0 }, { tone: 0.5, mm: 1 }, { tone: 1, mm: 2 }];
  expect(ruleLine({ ...RULE, kind: "steps", steps })).toEqual([
    [0, 0], [0.25, 0], [0.25, 1], [0.75, 1], [0.75, 2], [1, 2],
  ]);
});

test("where height depends on the surroundings, the mean of every tone is shown and blanks are left out", () => {
  const grid = {
    rows: 1,
    columns: 4,
    tones: new Uint16Array([0, 0, 65_535, 65_535]),
    heights: new Float32Array([1, 3, 5, Number.NaN]),
  };
  expect(ruleLine({ ...RULE, kind: "compress" })).toBeNull();
  expect(meanHeights(grid)).toEqual([[0.5 / 64, 2], [63.5 / 64, 5]]);
});

test("a tone between two points gets a height between theirs, one beyond them that of the end", () => {
  expect(heightOn([[0, 0], [0.5, 1], [1, 3]], 0.75)).toBe(2);
  expect(heightOn([[0.2, 1], [0.8, 2]], 0)).toBe(1);
  expect(heightOn([[0.2, 1], [0.8, 2]], 1)).toBe(2);
});
