import { expect, test } from "vitest";
import { stepsIn } from "./steps";

const named = {
  part: (at: string) => ({ "height.draft": "Draft", "height.edges": "Edges as curves" })[at],
  entry: (_: string, entry: Record<string, unknown>) => (entry.kind === "blur" ? "Soften" : undefined),
  field: (at: string) => (at === "height.smooth_on" ? "Smoothing" : undefined),
};

test("everything that is switched on and has a name can be left out", () => {
  const document = {
    title: "Fern",
    on: true,
    ops: [{ kind: "blur", id: "b", on: true }, { kind: "blur", id: "c", on: false }, { kind: "odd", id: "d", on: true }],
    height: { smooth_on: true, other_on: true, draft: { on: true, wall_deg: 80 }, edges: { on: false }, nameless: { on: true } },
  };
  const steps = stepsIn(document, named);
  expect(steps.map(({ key, name }) => [key, name])).toEqual([
    ["b", "Soften"],
    ["height.smooth_on", "Smoothing"],
    ["height.draft", "Draft"],
  ]);
  expect(steps[0]?.without).toEqual({ ops: [{ kind: "blur", id: "b", on: false }, document.ops[1], document.ops[2]] });
  expect(steps[1]?.without).toEqual({ height: { smooth_on: false } });
  expect(steps[2]?.without).toEqual({ height: { draft: { on: false } } });
});

test("steps of one name are counted", () => {
  const ops = [{ kind: "blur", id: "b", on: true }, { kind: "blur", id: "c", on: true }];
  expect(stepsIn({ ops }, named).map(({ name }) => name)).toEqual(["Soften, 1", "Soften, 2"]);
});

test("a piece to which nothing was done has no steps", () => {
  expect(stepsIn({ title: "Fern", ops: [], height: { draft: { on: false } } }, named)).toEqual([]);
});
