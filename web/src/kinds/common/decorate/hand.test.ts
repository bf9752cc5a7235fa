import { beforeEach, describe, expect, test, vi } from "vitest";
import { partNamed } from "../../../api/parts";
import { PARTS } from "../../../testing/parts";
import type { ModelDocument } from "../../../api/client";
import type { Decoration, Placement, Triple } from "../../../api/decorations";
import { freshDecoration } from "./decorations";
import { useBrush } from "../../../state/brushStore";
import { forgetDecorating, useDecorStore } from "../../../state/decorStore";
import { handOver, type Work } from "./hand";

const PART = partNamed(PARTS, "DecorationPart");
const ART = { kind: "outline", blob: "a".repeat(64), name: "Acorn" } as const;
const laid = (id: string, at: Triple): Decoration => ({ ...freshDecoration(PART, ART, 20, [0, 0, 1]), id, at: [...at] as [number, number, number] });
const [first, second] = [laid("first", [10, 0, 5]), laid("second", [0, 10, 5])];

/** Seen from where x grows: to the right is y, upwards is z. */
const PLACEMENT: Placement = {
  head: { at: [10, 0, 5], out: [1, 0, 0], up: [0, 0, 1], right: [0, 1, 0], size_mm: [20, 20], handles: [], copies: 1, description: "", most_stretch: 0 },
  corners: new Float32Array(),
  shares: new Float32Array(),
  stretch: new Float32Array(),
};

const state = () => useDecorStore.getState();
const keep = vi.fn<Work["keep"]>();
const ask = vi.fn<(decoration: Decoration) => void>();
let work: Work;
let hand: ReturnType<typeof handOver>;

beforeEach(() => {
  forgetDecorating();
  keep.mockClear();
  ask.mockClear();
  work = { document: { decorations: [first, second], strokes: [] } as unknown as ModelDocument, chosen: null, widths: [0.1, 3000], keep };
  hand = handOver(() => work, ask);
});

function kept(): { label: string; decorations: readonly Decoration[] } {
  expect(keep).toHaveBeenCalledTimes(1);
  const [label, change] = keep.mock.calls[0] ?? ["", {}];
  return { label, decorations: change.decorations ?? [] };
}

describe("a fresh decoration", () => {
  const fresh = laid("fresh", [0, 0, 0]);
  beforeEach(() => state().set({ fresh, tool: "lay" }));

  test("is asked for wherever the pointer is, pressed or not", () => {
    hand.move([1, 2, 3], false, 1);
    hand.move([2, 2, 3], true, 1);
    expect(ask.mock.calls.map(([each]) => each.at)).toEqual([[1, 2, 3], [2, 2, 3]]);
    expect(keep).not.toHaveBeenCalled();
  });

  test("is laid where it is pressed, on top of the others, and then chosen", () => {
    hand.press([4, 5, 6], 1);
    hand.release();
    const { label, decorations } = kept();
    expect(label).toBe("Laid on: Acorn");
    expect(decorations.map(({ id, at }) => [id, at])).toEqual([["first", [10, 0, 5]], ["second", [0, 10, 5]], ["fresh", [4, 5, 6]]]);
    expect(state()).toMatchObject({ fresh: null, tool: null, chosen: "fresh" });
  });
});

describe("the chosen decoration", () => {
  beforeEach(() => {
    work.chosen = first;
    state().set({ chosen: "first", placement: PLACEMENT, placed: first });
  });

  test("does not follow a pointer that holds nothing", () => {
    hand.move([1, 1, 1], true, 1);
    hand.release();
    expect(ask).not.toHaveBeenCalled();
    expect(keep).not.toHaveBeenCalled();
  });

  test("moves as far as the hand does, from wherever it was taken", () => {
    hand.press([10, 1, 6], 1);
    state().set({ grip: "middle" });
    hand.move([10, 3, 7], true, 1);
    expect(ask.mock.lastCall?.[0].at).toEqual([10, 2, 6]);
  });

  test("is kept as it was held last, also before the answer is there", () => {
    hand.press([10, 0, 5], 1);
    state().set({ grip: "middle" });
    hand.move([10, 3, 5], true, 1);
    hand.move([10, 4, 5], true, 1);
    hand.release();
    const { label, decorations } = kept();
    expect(label).toBe("Acorn moved");
    expect(decorations[0]?.at).toEqual([10, 4, 5]);
    expect(decorations[1]).toBe(second);
    expect(state().grip).toBeNull();
  });

  test("stays as it was where it is pressed and let go of without a move", () => {
    hand.press([10, 0, 5], 1);
    state().set({ grip: "middle" });
    hand.release();
    expect(keep).not.toHaveBeenCalled();
    expect(state().grip).toBeNull();
  });

  test("grows and turns by a corner, about its own middle", () => {
    hand.press([10, 10, 5], 1);
    state().set({ grip: "corner" });
    hand.move([10, 0, 25], true, 1);
    hand.release();
    const { label, decorations } = kept();
    expect(label).toBe("Acorn turned and sized");
    expect(decorations[0]).toMatchObject({ width_mm: 40, turn_deg: 90, at: [10, 0, 5] });
  });

  test("is not kept under another one's name where the choice changed meanwhile", () => {
    hand.press([10, 0, 5], 1);
    state().set({ grip: "middle" });
    hand.move([10, 4, 5], true, 1);
    work.chosen = second;
    hand.release();
    expect(keep).not.toHaveBeenCalled();
  });

  test("is not moved by what was held before Escape", () => {
    hand.press([10, 0, 5], 1);
    state().set({ grip: "middle" });
    hand.move([10, 4, 5], true, 1);
    state().set({ grip: null });
    hand.release();
    state().set({ grip: "middle" });
    hand.release();
    expect(keep).not.toHaveBeenCalled();
  });
});

describe("drawn on the model", () => {
  const draw = (...places: Triple[]) => {
    const [start, ...others] = places;
    if (start) hand.press(start, 1);
    others.forEach((place) => hand.move(place, true, 1));
    hand.release();
  };
  beforeEach(() => {
    work.chosen = first;
    state().set({ chosen: "first" });
  });

  test("a brush stroke keeps its tool, its size and places that are far enough apart", () => {
    useBrush.getState().choose({ tool: "raise", radius_mm: 6, strength: 0.5 });
    state().set({ tool: "brush" });
    draw([0, 0, 0], [0.2, 0, 0], [1.5, 0, 0], [3, 0, 0]);
    expect(keep.mock.calls[0]?.[0]).toBe("Brush: raise");
    expect(keep.mock.calls[0]?.[1].strokes).toMatchObject([{ tool: "raise", radius_mm: 6, strength: 0.5, places: [[0, 0, 0], [1.5, 0, 0], [3, 0, 0]] }]);
    expect(state()).toMatchObject({ tool: "brush", trail: [] });
  });

  test("a lasso needs three places to enclose anything", () => {
    state().set({ tool: "lasso" });
    draw([0, 0, 0], [1, 0, 0]);
    expect(keep).not.toHaveBeenCalled();
    expect(state().tool).toBe("lasso");
    draw([0, 0, 0], [1, 0, 0], [1, 1, 0]);
    expect(kept().decorations[0]?.pick).toMatchObject({ kind: "lasso", places: [[0, 0, 0], [1, 0, 0], [1, 1, 0]] });
    expect(state().tool).toBeNull();
  });

  test("directions of a texture are drawn one after the other", () => {
    const before = { places: [[0, 0, 0], [0, 0, 1]] as [number, number, number][] };
    work.chosen = { ...first, tiled: true, grain: [before] };
    work.document = { ...work.document, decorations: [work.chosen, second] };
    state().set({ tool: "grain" });
    draw([1, 0, 0]);
    expect(keep).not.toHaveBeenCalled();
    draw([1, 0, 0], [5, 0, 0]);
    expect(kept().decorations[0]?.grain).toEqual([before, { places: [[1, 0, 0], [5, 0, 0]] }]);
    expect(state().tool).toBe("grain");
  });

  test("faces are picked one press at a time, added to those picked before", () => {
    work.chosen = { ...first, pick: { ...first.pick, kind: "faces", places: [[9, 9, 9]] } };
    work.document = { ...work.document, decorations: [work.chosen, second] };
    state().set({ tool: "pick" });
    draw([1, 0, 0], [5, 0, 0]);
    expect(kept().decorations[0]?.pick.places).toEqual([[9, 9, 9], [1, 0, 0]]);
  });

  test("paint of a region follows the whole stroke", () => {
    work.chosen = { ...first, pick: { ...first.pick, kind: "brush", radius_mm: 3 } };
    work.document = { ...work.document, decorations: [work.chosen, second] };
    state().set({ tool: "pick" });
    draw([0, 0, 0], [0.5, 0, 0], [1, 0, 0], [2, 0, 0]);
    expect(kept().decorations[0]?.pick.places).toEqual([[0, 0, 0], [1, 0, 0], [2, 0, 0]]);
  });

  test("a region is encircled or painted, and strokes keep to it", () => {
    state().set({ tool: "fence" });
    draw([0, 0, 0], [9, 0, 0], [9, 9, 0]);
    expect(useBrush.getState().how.region).toMatchObject({ kind: "lasso", places: [[0, 0, 0], [9, 0, 0], [9, 9, 0]] });
    expect(state().tool).toBe("brush");
    state().set({ tool: "paint" });
    useBrush.getState().choose({ radius_mm: 6, within: "region" });
    draw([0, 0, 0], [1, 0, 0], [3, 0, 0]);
    draw([6, 0, 0]);
    expect(keep).not.toHaveBeenCalled();
    expect(useBrush.getState().how.region).toMatchObject({ kind: "brush", radius_mm: 6, places: [[0, 0, 0], [3, 0, 0], [6, 0, 0]] });
    state().set({ tool: "brush" });
    draw([1, 0, 0]);
    expect(keep.mock.calls[0]?.[1].strokes?.[0]).toMatchObject({ within: "region", region: { kind: "brush" }, places: [[1, 0, 0]] });
  });

  test("nothing is drawn while the button is up", () => {
    state().set({ tool: "brush" });
    hand.move([0, 0, 0], false, 1);
    hand.move([1, 0, 0], true, 1);
    hand.release();
    expect(keep).not.toHaveBeenCalled();
  });
});
