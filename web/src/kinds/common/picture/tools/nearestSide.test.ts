import { expect, test } from "vitest";
import { nearestSide } from "./nearestSide";

const SQUARE = [{ x: 0, y: 0 }, { x: 10, y: 0 }, { x: 10, y: 10 }, { x: 0, y: 10 }];

test.each([
  [{ x: 5, y: 1 }, true, 0, 1],
  [{ x: 9, y: 5 }, true, 1, 1],
  [{ x: -2, y: 5 }, true, 3, 2],
  [{ x: -2, y: 5 }, false, 0, Math.hypot(2, 5)],
  [{ x: 13, y: -4 }, true, 0, 5],
])("the side nearest to %o, closed: %s, is number %d", (spot, closed, after, away) => {
  expect(nearestSide(SQUARE, spot, closed)).toEqual({ after, away: expect.closeTo(away, 9) as number });
});

test("one point has no side, and two points one that does not close", () => {
  expect(nearestSide(SQUARE.slice(0, 1), { x: 1, y: 1 }, true)).toBeNull();
  expect(nearestSide(SQUARE.slice(0, 2), { x: 5, y: 3 }, true)).toEqual({ after: 0, away: 3 });
});
