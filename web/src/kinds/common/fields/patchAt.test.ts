import { expect, test } from "vitest";
import { patchAt } from "./patchAt";

test("a value deep in the document is set by nothing but its own place", () => {
  expect(patchAt("body.frame.width_mm", 4)).toEqual({ body: { frame: { width_mm: 4 } } });
});

test("a value at the top needs no nesting", () => {
  expect(patchAt("title", "Fern")).toEqual({ title: "Fern" });
});
