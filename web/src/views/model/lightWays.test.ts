import { Vector3 } from "three";
import { expect, test } from "vitest";
import { lampWay, skyWay } from "./lightWays";

const count = 64;
const ways = Array.from({ length: count }, (_, at) => at);

test.each([new Vector3(0, 0, 40), new Vector3(30, -20, 9), new Vector3(-5, 0, 0)])("places of a lamp lie round its middle, and no further out", (middle) => {
  const mean = new Vector3();
  for (const at of ways) {
    const way = lampWay(middle, 6, at);
    expect(way.length()).toBeCloseTo(middle.length());
    expect(way.angleTo(middle)).toBeLessThan((6.001 * Math.PI) / 180);
    mean.addScaledVector(way, 1 / count);
  }
  expect(mean.angleTo(middle)).toBeLessThan(0.01);
  const far = ways.filter((at) => lampWay(middle, 6, at).angleTo(middle) > (4.243 * Math.PI) / 180);
  // Half of a disc lies beyond 0.707 of its radius.
  expect(far.length).toBeGreaterThan(0.4 * count);
  expect(far.length).toBeLessThan(0.6 * count);
});

test.each([8, 24, 64])("%i ways of the sky go everywhere alike", (many) => {
  const mean = new Vector3();
  let facing = 0;
  for (const way of ways.slice(0, many).map(skyWay)) {
    expect(way.length()).toBeCloseTo(1);
    mean.addScaledVector(way, 1 / many);
    facing += Math.max(0, way.z) / many;
  }
  expect(mean.length()).toBeLessThan(0.2);
  // A plane that nothing hides gets a quarter of what comes from everywhere.
  expect(facing).toBeCloseTo(0.25, 1);
});
