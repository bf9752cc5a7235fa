import { describe, expect, it } from "vitest";
import { isDraggedOut, withMoved, withPoint, type CurvePoints } from "./curvePoints";

const CURVE: CurvePoints = [
  [0, 0],
  [0.5, 0.6],
  [1, 1],
];

describe("points of a tone curve", () => {
  it("takes a further point in order", () => {
    expect(withPoint(CURVE, [0.7, 0.2])).toEqual({ points: [[0, 0], [0.5, 0.6], [0.7, 0.2], [1, 1]], at: 2 });
  });

  it("moves inner points between their neighbours and the ends upright only", () => {
    expect(withMoved(CURVE, 1, [1.4, -0.3])[1]).toEqual([0.99, 0]);
    expect(withMoved(CURVE, 0, [0.3, 0.2])[0]).toEqual([0, 0.2]);
    expect(withMoved(CURVE, 2, [0.3, 0.8])[2]).toEqual([1, 0.8]);
  });

  it("drops an inner point that is dragged out, and never an end", () => {
    expect(isDraggedOut(CURVE, 1, [0.5, 1.3])).toBe(true);
    expect(isDraggedOut(CURVE, 1, [0.5, 1.05])).toBe(false);
    expect(isDraggedOut(CURVE, 0, [0, -1])).toBe(false);
  });
});
