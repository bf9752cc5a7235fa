import { describe, expect, it } from "vitest";
import type { AnyDocument } from "../../api/client";
import { patched } from "../../bench/mergePatch";
import { shapeOf, shapePatch, shapesFor } from "./solids";

const PANEL = { picture: {}, ops: [], height: { rule: {} }, body: { width_mm: 80 }, finish: {} } as unknown as AnyDocument;

describe("making a piece another thing", () => {
  it("takes a panel to outlines and keeps its picture and width", () => {
    const cutter = patched(PANEL, shapePatch(PANEL, "cutter"));
    expect(cutter).toMatchObject({ picture: {}, width_mm: 80, trace: {}, solid: { kind: "cutter", lines: 4 } });
    expect(cutter).not.toHaveProperty("height");
    expect(cutter).not.toHaveProperty("body");
  });

  it("leaves nothing of the solid before", () => {
    const cutter = patched(PANEL, shapePatch(PANEL, "cutter"));
    const stamp = patched(cutter, shapePatch(cutter, "stamp")) as { solid: Record<string, unknown> };
    expect(stamp.solid.kind).toBe("stamp");
    expect(stamp.solid).not.toHaveProperty("lines");
  });

  it("takes outlines back to a panel", () => {
    const cutter = patched(PANEL, shapePatch(PANEL, "cutter"));
    const panel = patched(cutter, shapePatch(cutter, "panel"));
    expect(panel).toMatchObject({ body: { width_mm: 80 } });
    expect(panel).not.toHaveProperty("solid");
    expect(panel).not.toHaveProperty("trace");
  });

  it("takes a panel to a lithophane, on to a stamp, and back", () => {
    const lithophane = patched(PANEL, shapePatch(PANEL, "lithophane"));
    expect(lithophane).toMatchObject({ picture: {}, glow: {}, form: { width_mm: 80 } });
    expect(shapeOf(lithophane)).toBe("lithophane");
    expect(lithophane).not.toHaveProperty("height");
    const stamp = patched(lithophane, shapePatch(lithophane, "stamp"));
    expect(stamp).toMatchObject({ width_mm: 80, solid: { kind: "stamp" } });
    for (const part of ["glow", "form", "parts", "lamp"]) expect(stamp).not.toHaveProperty(part);
    expect(patched(lithophane, shapePatch(lithophane, "panel"))).toMatchObject({ body: { width_mm: 80 }, height: {} });
  });

  it("offers no panel where there is no picture", () => {
    expect(shapesFor({ drawing: {}, solid: {} } as unknown as AnyDocument)).not.toContain("panel");
  });
});
