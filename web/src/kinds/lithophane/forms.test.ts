import { describe, expect, it } from "vitest";
import { acrossToRound, formPatch, roundToAcross, type FormPart } from "./forms";

const FLAT = { kind: "flat", width_mm: 90 } as FormPart;

describe("bending a sheet over another form", () => {
  it("makes a lantern of a usual size", () => {
    expect(formPatch(FLAT, "cylinder")).toEqual({ kind: "cylinder", width_mm: acrossToRound(80) });
  });

  it("keeps a sheet that is long enough already", () => {
    expect(formPatch({ ...FLAT, width_mm: 400 }, "prism").width_mm).toBe(400);
  });

  it("leaves widths alone between forms that are alike, and on spheres", () => {
    expect(formPatch(FLAT, "arc")).toEqual({ kind: "arc" });
    expect(formPatch({ ...FLAT, kind: "cylinder" }, "heart")).toEqual({ kind: "heart" });
    expect(formPatch(FLAT, "sphere")).toEqual({ kind: "sphere" });
  });

  it("goes from across to round and back", () => {
    expect(roundToAcross(acrossToRound(80))).toBe(80);
  });
});
