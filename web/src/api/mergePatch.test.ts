import { describe, expect, it } from "vitest";
import { patched } from "./mergePatch";

describe("merge patches", () => {
  it("change what they name and keep the rest", () => {
    const document = { title: "Fern", height: { rule: { relief_mm: 3, tall: "bright" } }, ops: [1, 2] };
    const change = { height: { rule: { relief_mm: 4 } }, ops: [2] };
    expect(patched(document, change)).toEqual({ title: "Fern", height: { rule: { relief_mm: 4, tall: "bright" } }, ops: [2] });
    expect(document.height.rule.relief_mm).toBe(3);
  });

  it("remove what they set to null, and replace what is no object", () => {
    expect(patched<unknown>({ a: 1, b: { c: 2 } }, { a: null, b: { c: null } })).toEqual({ b: {} });
    expect(patched<unknown>({ a: [1] }, { a: { b: 1 } })).toEqual({ a: { b: 1 } });
  });
});
