import { expect, test } from "vitest";
import { withoutStep, withStepAdded, withStepChanged } from "./stepEdits";

const TABLE = [{ tone: 0, mm: 0 }, { tone: 0.2, mm: 1 }, { tone: 1, mm: 2 }];

test("a new step goes into the widest span of tones, half way up", () => {
  expect(withStepAdded(TABLE)[2]).toEqual({ tone: 0.6, mm: 1.5 });
  expect(withStepAdded(TABLE)).toHaveLength(4);
});

test("two steps always stay", () => {
  expect(withoutStep(TABLE, 1)).toEqual([TABLE[0], TABLE[2]]);
  expect(withoutStep(TABLE.slice(0, 2), 0)).toHaveLength(2);
});

test("changing a row leaves the others", () => {
  expect(withStepChanged(TABLE, 1, { mm: 1.4 })).toEqual([TABLE[0], { tone: 0.2, mm: 1.4 }, TABLE[2]]);
});
