import { expect, test } from "vitest";
import type { ModelStep } from "../../../api/client";
import { withStepChanged, withStepMoved } from "./modelSteps";

const STEPS = ["a", "b", "c"].map((id) => ({ kind: "repair", id, on: true })) as ModelStep[];
const ids = (steps: readonly ModelStep[]) => steps.map((step) => step.id).join("");

test("a step moves by one place, and not beyond the ends", () => {
  expect(ids(withStepMoved(STEPS, "b", -1))).toBe("bac");
  expect(ids(withStepMoved(STEPS, "b", 1))).toBe("acb");
  expect(ids(withStepMoved(STEPS, "a", -1))).toBe("abc");
  expect(ids(withStepMoved(STEPS, "c", 1))).toBe("abc");
});

test("changing a step leaves the others as they are", () => {
  const changed = withStepChanged(STEPS, "b", { on: false });
  expect(changed.map((step) => step.on)).toEqual([true, false, true]);
});
