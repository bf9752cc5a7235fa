import { describe, expect, it } from "vitest";
import type { OutlinesView } from "../../api/client";
import { placesOf } from "./mendKinds";
import { withPressed } from "../../state/outlineStore";

const VIEW = {
  width_mm: 50,
  curves: [
    { number: 0, nodes: [[0, 0], [10, 20], [20, 0]] },
    { number: 1, nodes: [[40, 5]] },
  ],
} as unknown as OutlinesView;

describe("mending steps", () => {
  it("name chosen outlines by a node of each, as shares of the width", () => {
    expect(placesOf(VIEW, [0, 1])).toEqual([[0.2, 0.4], [0.8, 0.1]]);
  });

  it("skip outlines that are gone", () => {
    expect(placesOf(VIEW, [7])).toEqual([]);
  });
});

describe("withPressed", () => {
  it("chooses one, or adds and takes away with more", () => {
    expect(withPressed([1, 2], 3, false)).toEqual([3]);
    expect(withPressed([1, 2], 3, true)).toEqual([1, 2, 3]);
    expect(withPressed([1, 2], 2, true)).toEqual([1]);
  });
});
