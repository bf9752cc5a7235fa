import { expect, test } from "vitest";
import { partNamed } from "../../../api/parts";
import { PARTS } from "../../../testing/parts";
import type { Triple } from "../../../api/decorations";
import { useBrush } from "../../../state/brushStore";
import { freshDecoration, freshStroke, heldByCorner, thinned, withDecoration, withDecorationMoved, wordsOf } from "./decorations";

const PART = partNamed(PARTS, "DecorationPart");
const ART = { kind: "outline", blob: "a".repeat(64), name: "Acorn" } as const;
const FRAME = { at: [10, 0, 5] as Triple, right: [0, 1, 0] as Triple, up: [0, 0, 1] as Triple };
const LIST = ["a", "b", "c"].map((id) => ({ ...freshDecoration(PART, ART, 24, [0, 0, 1]), id }));
const ids = (list: readonly { id: string }[]) => list.map((each) => each.id).join("");

test("a corner that is taken outwards makes it wider", () => {
  expect(heldByCorner({ width_mm: 20, turn_deg: 0 }, FRAME, [10, 10, 10], [10, 20, 15], [0.1, 3000])).toEqual({ width_mm: 40, turn_deg: 0 });
});

test("a corner that is taken round turns it, counter-clockwise above 0", () => {
  const turned = heldByCorner({ width_mm: 20, turn_deg: 10 }, FRAME, [10, 8, 5], [10, 0, 13], [0.1, 3000]);
  expect(turned.width_mm).toBeCloseTo(20);
  expect(turned.turn_deg).toBeCloseTo(100);
});

test("turns stay between a half turn either way", () => {
  expect(heldByCorner({ width_mm: 20, turn_deg: 170 }, FRAME, [10, 8, 5], [10, 0, 13], [0.1, 3000]).turn_deg).toBeCloseTo(-100);
});

test("a size never leaves what the server accepts", () => {
  expect(heldByCorner({ width_mm: 20, turn_deg: 0 }, FRAME, [10, 8, 5], [10, 0, 5], [0.1, 3000]).width_mm).toBe(0.1);
});

test("later ones come on top, and order stops at the ends", () => {
  expect(ids(withDecorationMoved(LIST, "a", 1))).toBe("bac");
  expect(ids(withDecorationMoved(LIST, "a", -1))).toBe("abc");
  expect(ids(withDecorationMoved(LIST, "c", 1))).toBe("abc");
  expect(ids(withDecorationMoved(LIST, "none", 1))).toBe("abc");
});

test("changing one leaves the others as they are", () => {
  expect(withDecoration(LIST, "b", { width_mm: 8 }).map((each) => each.width_mm)).toEqual([24, 8, 24]);
});

test("a trail keeps places that say something new, and not too many", () => {
  const trail: Triple[] = [[0, 0, 0], [0.1, 0, 0], [1, 0, 0], [1.05, 0, 0], [2, 0, 0]];
  expect(thinned(trail, 0.5, 10)).toEqual([[0, 0, 0], [1, 0, 0], [2, 0, 0]]);
  expect(thinned(trail, 0.5, 2)).toHaveLength(2);
});

test("a decoration is told in a few words", () => {
  const [one] = LIST;
  if (!one) throw new Error("There is one.");
  expect(wordsOf(one)).toBe("0.6 mm raised");
  expect(wordsOf({ ...one, effect: "sink", copies: { ...one.copies, kind: "ring" } })).toBe("0.6 mm sunk, 8 times");
  expect(wordsOf({ ...one, effect: "colour", tiled: true })).toBe("colour only, all over");
  expect(wordsOf({ ...one, copies: { ...one.copies, kind: "grid", count: 3, rows: 2 } })).toContain("6 times");
});

test("every stroke has an id of its own and the places it went", () => {
  const stroke = freshStroke({ ...useBrush.getState().how, tool: "smooth" }, [[1, 2, 3]]);
  expect(stroke).toMatchObject({ tool: "smooth", places: [[1, 2, 3]], radius_mm: 3, strength: 0.5 });
  expect(freshStroke({ ...useBrush.getState().how, tool: "raise" }, [[1, 2, 3]]).id).not.toBe(stroke.id);
});

test("a pen's pressure is kept where it says anything", () => {
  const { how } = useBrush.getState();
  expect(freshStroke(how, [[0, 0, 0], [1, 0, 0]], [1, 1]).pressures).toEqual([]);
  expect(freshStroke(how, [[0, 0, 0], [1, 0, 0]], [0.2, 1]).pressures).toEqual([0.2, 1]);
});
