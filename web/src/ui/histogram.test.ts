import { describe, expect, it } from "vitest";
import { BINS, histogram, histogramPath } from "./histogram";

describe("histogram", () => {
  it("counts material by tone and leaves blanks out", () => {
    const tones = Uint16Array.of(0, 0, 65_535, 32_768, 40_000);
    const heights = Float32Array.of(0, 0, 3, 1.5, Number.NaN);
    const counts = histogram({ rows: 1, columns: 5, tones, heights });
    expect(counts[0]).toBe(2);
    expect(counts[BINS - 1]).toBe(1);
    expect(counts[BINS / 2]).toBe(1);
    expect(counts.reduce((sum, count) => sum + count, 0)).toBe(4);
  });

  it("draws the fullest class to the top", () => {
    const path = histogramPath(Uint32Array.of(0, 4, 1, 0), 40, 20);
    expect(path).toContain("L10.0 0.0L20.0 0.0");
    expect(path).toContain("L20.0 10.0L30.0 10.0");
    expect(path.endsWith("Z")).toBe(true);
  });
});
