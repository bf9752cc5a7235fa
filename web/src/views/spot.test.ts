import { describe, expect, it } from "vitest";
import type { PlanHead } from "../api/preview";
import { alongLine, lineInMm, sampleAt, spotOnLine } from "./spot";

const head = { size_mm: [20, 10, 3] } as PlanHead;
const grid = {
  rows: 2,
  columns: 3,
  heights: new Float32Array([0, 1, 2, 3, 4, Number.NaN]),
  tones: new Uint16Array([0, 0, 65535, 0, 0, 0]),
};

describe("sampleAt", () => {
  it("puts the picture's top at the greatest y", () => {
    expect(sampleAt(grid, head, { x: 20, y: 10 })).toEqual({ tone: 1, height: 2 });
    expect(sampleAt(grid, head, { x: 0, y: 0 })?.height).toBe(3);
    expect(sampleAt(grid, head, { x: 20, y: 0 })?.height).toBeNaN();
  });

  it("knows where the piece ends", () => {
    expect(sampleAt(grid, head, { x: 20.1, y: 5 })).toBeNull();
    expect(sampleAt(grid, head, { x: 5, y: -0.1 })).toBeNull();
  });
});

describe("section lines", () => {
  const line = lineInMm({ start: { x: 0, y: 0 }, end: { x: 1, y: 1 } }, [30, 40, 5]);

  it("measure along and beside", () => {
    const { along, beside } = alongLine(line, { x: 15, y: 20 });
    expect(along).toBeCloseTo(25);
    expect(beside).toBeCloseTo(0);
    expect(alongLine(line, { x: 40, y: -30 }).beside).toBeCloseTo(50);
  });

  it("find the spot again", () => {
    expect(spotOnLine(line, 25)).toEqual({ x: 15, y: 20 });
  });
});
