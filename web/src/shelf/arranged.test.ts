import { describe, expect, test } from "vitest";
import type { PieceCard } from "../api/client";
import { arranged, tagsOf } from "./arranged";

const card = (title: string, more: Partial<PieceCard> = {}) =>
  ({ id: title, title, body: "Relief panel", maker: "Workshop printer", changed: "2026-01-01", created: "2026-01-01", tags: [], ...more }) as unknown as PieceCard;
const titles = (pieces: readonly PieceCard[]) => pieces.map(({ title }) => title);
const SHELF = [
  card("Plate 10", { changed: "2026-03-01", created: "2026-01-03", tags: ["trail"] }),
  card("Plate 9", { changed: "2026-02-01", created: "2026-01-05", tags: ["trail", "sold"] }),
  card("Moon", { body: "Lithophane, sphere", maker: "Yard router", changed: "2026-04-01" }),
];

describe("words", () => {
  test.each([
    ["", ["Moon", "Plate 10", "Plate 9"]],
    ["plate", ["Plate 10", "Plate 9"]],
    ["SPHERE", ["Moon"]],
    ["yard lith", ["Moon"]],
    ["plate sold", ["Plate 9"]],
    ["bell", []],
  ])("“%s” finds every piece that has all of them", (words, found) => {
    expect(titles(arranged(SHELF, words, null, "changed"))).toEqual(found);
  });

  test("and a tag narrows them further", () => {
    expect(titles(arranged(SHELF, "plate", "sold", "changed"))).toEqual(["Plate 9"]);
  });
});

test.each([
  ["changed", ["Moon", "Plate 10", "Plate 9"]],
  ["begun", ["Plate 9", "Plate 10", "Moon"]],
  ["title", ["Moon", "Plate 9", "Plate 10"]],
  ["kind", ["Moon", "Plate 9", "Plate 10"]],
] as const)("by %s, numbers in titles count as numbers", (order, wanted) => {
  expect(titles(arranged(SHELF, "", null, order))).toEqual(wanted);
});

test("the shelf itself stays as it came", () => {
  const before = titles(SHELF);
  arranged(SHELF, "", null, "title");
  expect(titles(SHELF)).toEqual(before);
});

test("tags are told with how many pieces carry them, the most used first", () => {
  expect(tagsOf(SHELF)).toEqual([["trail", 2], ["sold", 1]]);
  expect(tagsOf([])).toEqual([]);
});
