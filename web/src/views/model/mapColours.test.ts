import { expect, test } from "vitest";
import { colourOf, mapColours, stopsOf } from "./mapColours";

const HEAD = { triangles: 1, standing: false, kind: "thickness", unit: "mm", least: 0.1, most: 9, spot: null, limit: 0.42 } as const;

test("what is thinner than the limit has one warning colour, what is thicker has another", () => {
  const stops = stopsOf(HEAD);
  expect(colourOf(stops, 0.1)).toEqual(colourOf(stops, 0.41));
  expect(colourOf(stops, 0.5)).not.toEqual(colourOf(stops, 0.41));
  expect(colourOf(stops, 50)).toEqual(colourOf(stops, 6 * 0.42));
});

test("a place without a value is gray", () => {
  const [red, green, blue] = colourOf(stopsOf(HEAD), Number.NaN);
  expect(Math.max(red, green, blue) - Math.min(red, green, blue)).toBeLessThan(0.05);
});

test("every vertex gets three channels", () => {
  expect(mapColours({ ...HEAD, kind: "draft", spot: null }, new Float32Array([-5, 0, 90]))).toHaveLength(9);
});

test("an undercut is told from a wall that leans", () => {
  const stops = stopsOf({ ...HEAD, kind: "draft" });
  expect(colourOf(stops, -1)).not.toEqual(colourOf(stops, 1));
});
