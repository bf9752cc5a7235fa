import { expect, test } from "vitest";
import type { AnyDocument } from "../../api/client";
import { stockOf } from "./stock";

const carving = (stock: object, on = true) =>
  ({ on, stock: { width_mm: 120, depth_mm: 140, lies: "centre", left_mm: 10, low_mm: 12, zero: "corner", ...stock } }) as unknown as AnyDocument["carving"];

test("a piece lies in the middle of its stock, or where it was typed", () => {
  expect(stockOf(carving({}), [80, 100])).toEqual({ left: -20, low: -20, width: 120, depth: 140, zero: { x: -20, y: -20 } });
  expect(stockOf(carving({ lies: "typed", zero: "centre" }), [80, 100])).toMatchObject({ left: -10, low: -12, zero: { x: 50, y: 58 } });
});

test("there is no stock for a printer", () => {
  expect(stockOf(carving({}, false), [80, 100])).toBeNull();
});
