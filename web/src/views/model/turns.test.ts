import { Euler, MathUtils, Quaternion, Vector3 } from "three";
import { expect, test } from "vitest";
import { angleOn, snapped, turnDown, turnOf } from "./turns";

const turned = (vector: Vector3, [x, y, z]: readonly [number, number, number]) =>
  vector.applyEuler(new Euler(...[x, y, z].map(MathUtils.degToRad) as [number, number, number], "ZYX"));

test.each([
  [1, 0, 0],
  [0, -1, 0],
  [0, 0, 1],
  [0, 0, -1],
  [0.3, -0.7, 0.2],
] as const)("the face that looks along %d, %d, %d comes to lie below", (x, y, z) => {
  const outward = new Vector3(x, y, z).normalize();
  const below = turned(outward.clone(), turnDown(outward));
  expect(below.x).toBeCloseTo(0, 6);
  expect(below.y).toBeCloseTo(0, 6);
  expect(below.z).toBeCloseTo(-1, 6);
});

test("a turn about one axis is told about that axis alone, without minus zeros", () => {
  const quarter = new Quaternion().setFromAxisAngle(new Vector3(0, 0, 1), Math.PI / 2);
  expect(turnOf(quarter)).toEqual([0, 0, 90]);
  expect(Object.is(turnOf(quarter)[0], -0)).toBe(false);
});

test.each([
  [new Vector3(1, 0, 0), new Vector3(0, 1, 0), new Vector3(0, 0, 1)],
  [new Vector3(0, 1, 0), new Vector3(0, 0, 1), new Vector3(1, 0, 0)],
  [new Vector3(0, 0, 1), new Vector3(1, 0, 0), new Vector3(0, 1, 0)],
])("a spot that a quarter turn about the axis moves on is a quarter further round it", (axis, from, to) => {
  expect(angleOn(axis, from.clone().multiplyScalar(7))).toBeCloseTo(0, 12);
  expect(angleOn(axis, to)).toBeCloseTo(Math.PI / 2, 12);
});

test("turns by hand go in steps of 5 degrees", () => {
  expect(MathUtils.radToDeg(snapped(MathUtils.degToRad(43.1)))).toBeCloseTo(45, 9);
  expect(snapped(MathUtils.degToRad(-2.4))).toBeCloseTo(0, 12);
});
