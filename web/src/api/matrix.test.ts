import { describe, expect, it } from "vitest";
import { inverse, mapped, type Matrix } from "./matrix";

const CROPPED: Matrix = [
  [2, 0, -0.5],
  [0, 4, -1],
  [0, 0, 1],
];
const TILTED: Matrix = [
  [1.2, 0.1, 0.05],
  [-0.2, 0.9, 0.1],
  [0.3, -0.1, 1],
];

describe("places between source and plan", () => {
  it("follows a crop", () => {
    expect(mapped(CROPPED, { x: 0.25, y: 0.25 })).toEqual({ x: 0, y: 0 });
    expect(mapped(CROPPED, { x: 0.75, y: 0.5 })).toEqual({ x: 1, y: 1 });
  });

  it("comes back through the inverse, also of a photographed sheet", () => {
    for (const matrix of [CROPPED, TILTED]) {
      const back = mapped(inverse(matrix), mapped(matrix, { x: 0.3, y: 0.8 }));
      expect(back.x).toBeCloseTo(0.3, 10);
      expect(back.y).toBeCloseTo(0.8, 10);
    }
  });
});
