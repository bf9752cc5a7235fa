// @vitest-environment happy-dom
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";
import type { BuildReport } from "../api/client";
import { ReportFacts } from "./ReportFacts";

afterEach(cleanup);

const REPORT = {
  size_mm: [120, 80, 5.2], triangles: 1200, volume_mm3: 4000, file_bytes: 2048, max_error_mm: 0.019, rms_error_mm: 0.004,
  max_error_between_mm: null, tolerance_mm: 0.02, error_where: "at samples", findings: [], seconds: 2,
  lit: { contrast: 9.5, ssim_within_reach: 0.97, colours: null },
} as unknown as BuildReport;

function told(term: string): string | undefined {
  return screen.queryByText(term)?.nextElementSibling?.textContent ?? undefined;
}

test("a lithophane tells its light, and its bodies only where it has colours", () => {
  const { rerender } = render(<ReportFacts report={REPORT} />);
  expect(told("Likeness within reach")).toBe("0.970 of 1");
  expect(told("Bodies")).toBeUndefined();
  const bodies = [{ name: "White", sound: true }, { name: "Cyan", sound: false }];
  const colours = { mean_difference: 2.34, largest_tenth: 5, far_off: 0, uncovered_mm3: 0, bodies };
  rerender(<ReportFacts report={{ ...REPORT, lit: { ...REPORT.lit, colours } } as unknown as BuildReport} />);
  expect(told("Colours off, CIEDE2000")).toBe("2.3 on average");
  expect(told("Bodies")).toBe("White; Cyan, not sound");
});

test("a relief whose walls follow curves tells how far they are off", () => {
  const edges = { walls_mm: 123.4, rms_error_mm: 0.004, max_error_mm: 0.0312, crowded: 0 };
  render(<ReportFacts report={{ ...REPORT, edges } as unknown as BuildReport} />);
  expect(told("Walls along curves")).toContain("0.031 mm off at most");
});
