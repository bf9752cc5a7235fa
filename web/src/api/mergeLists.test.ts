import { describe, expect, it } from "vitest";
import { mergedItems, mergedLists } from "./mergeLists";
import type { PictureOp } from "./ops";

const op = (id: string, level = 0): PictureOp => ({ kind: "snap", id, on: true, level });
const told = (ops: readonly PictureOp[]) => ops.map(({ id, level }) => `${id}${level ? String(level) : ""}`).join(" ");
const BASE = [op("a"), op("b"), op("c")];

describe("a list of steps edited on two pages", () => {
  it("keeps what either added, in its place", () => {
    expect(told(mergedItems(BASE, [...BASE, op("x")], [op("y"), ...BASE]))).toBe("y a b c x");
    expect(told(mergedItems([], [op("x")], [op("y")]))).toBe("x y");
  });

  it("keeps changes of different steps, and mine of the same", () => {
    const mine = [op("a", 1), op("b", 1), op("c")];
    const theirs = [op("a"), op("b", 2), op("c", 2)];
    expect(told(mergedItems(BASE, mine, theirs))).toBe("a1 b1 c2");
  });

  it("removes what either removed, unless the other changed it", () => {
    expect(told(mergedItems(BASE, [op("b"), op("c")], [op("a"), op("b")]))).toBe("b");
    expect(told(mergedItems(BASE, [op("b"), op("c")], [op("a", 5), op("b"), op("c")]))).toBe("a5 b c");
    expect(told(mergedItems(BASE, [op("a", 5), op("b"), op("c")], [op("b"), op("c")]))).toBe("a5 b c");
  });

  it("does not take another order of keys for a change", () => {
    const turnedRound = { level: 0, on: true, id: "a", kind: "snap" };
    expect(told(mergedItems(BASE, [op("b"), op("c")], [turnedRound, op("b"), op("c")]))).toBe("b c");
  });

  it("takes the order of the page that moved something", () => {
    const turned = [op("c"), op("b"), op("a")];
    expect(told(mergedItems(BASE, turned, [...BASE, op("x")]))).toBe("c x b a");
    expect(told(mergedItems(BASE, [...BASE, op("x")], turned))).toBe("c x b a");
  });

  it("changes nothing where only one page edited", () => {
    const mine = [op("b"), op("a", 3)];
    expect(mergedItems(BASE, mine, BASE)).toEqual(mine);
    expect(mergedItems(BASE, BASE, mine)).toEqual(mine);
  });
});

it("decorations laid on two pages at once both stay", () => {
  const document = (...names: string[]) => ({ model: {}, decorations: names.map((id) => ({ id })) }) as never;
  const change = { decorations: [{ id: "a" }, { id: "mine" }], thinnest_wall_mm: 1 };
  const merged = mergedLists(document("a"), change, document("a", "theirs"));
  expect((merged.decorations as { id: string }[]).map(({ id }) => id).sort()).toEqual(["a", "mine", "theirs"]);
  expect(merged.thinnest_wall_mm).toBe(1);
});

it("what is no list is laid on as it is", () => {
  const document = { model: {}, decorations: [] } as never;
  expect(mergedLists(document, { title: "New", decorations: null }, document)).toEqual({ title: "New", decorations: null });
});
