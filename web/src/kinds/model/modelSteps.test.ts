import { expect, test } from "vitest";
import type { ModelStep } from "../../api/client";
import { newStep, withStepChanged, withStepMoved } from "./modelSteps";

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

test("a new step is whole before the server has seen it", () => {
  expect(newStep("keep-parts")).toMatchObject({ on: true, largest: 1, chosen: [] });
  expect(newStep("cut")).toMatchObject({ on: true, axis: "z", keep: "above" });
});

test("every new step has an id of its own", () => {
  expect(newStep("remesh", { voxel_mm: 0.4 })).toMatchObject({ kind: "remesh", voxel_mm: 0.4 });
  expect(newStep("cut").id).not.toBe(newStep("cut").id);
});
