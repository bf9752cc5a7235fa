import { expect, test } from "vitest";
import { liftedCorners } from "./lifted";

/** Two faces over one edge, along y at x = 0: one level, one leaning down by 45 degrees. */
const ROOF = new Float32Array([0, 0, 0, 0, 2, 0, -2, 0, 0, 0, 0, 0, 2, 0, -2, 0, 2, 0]);

test("corners that faces share stay together, whichever way those look", () => {
  const lifted = liftedCorners(ROOF, 0.5);
  expect([...lifted.slice(0, 3)]).toEqual([...lifted.slice(9, 12)]);
  expect([...lifted.slice(3, 6)]).toEqual([...lifted.slice(15, 18)]);
});

test("every corner is lifted by as much as is asked, off the skin", () => {
  const lifted = liftedCorners(ROOF, 0.5);
  for (let at = 0; at < ROOF.length; at += 3) {
    const [x, y, z] = [0, 1, 2].map((axis) => (lifted[at + axis] ?? 0) - (ROOF[at + axis] ?? 0));
    expect(Math.hypot(x ?? 0, y ?? 0, z ?? 0)).toBeCloseTo(0.5, 5);
    expect(z).toBeGreaterThan(0);
  }
});
