import { expect, it } from "vitest";
import { rulerTicks } from "./ticks";

const labels = (from: number, to: number, scale: number, unit: "mm" | "in") =>
  rulerTicks(from, to, scale, unit)
    .map((tick) => tick.label)
    .filter(Boolean);

it("labels round millimetres with room between them", () => {
  expect(labels(0, 80, 6, "mm")).toEqual(["0", "10", "20", "30", "40", "50", "60", "70", "80"]);
  expect(labels(0, 2, 200, "mm")).toEqual(["0.0", "0.5", "1.0", "1.5", "2.0"]);
});

it("labels inches at inch places", () => {
  const ticks = rulerTicks(0, 51, 6, "in").filter((tick) => tick.label);
  expect(ticks.map((tick) => tick.label)).toEqual(["0.0", "0.5", "1.0", "1.5", "2.0"]);
  expect(ticks[2]?.mm).toBeCloseTo(25.4);
});

it("starts inside the span", () => {
  for (const tick of rulerTicks(3.3, 9.1, 40, "mm")) {
    expect(tick.mm).toBeGreaterThanOrEqual(3.3 - 1e-6);
    expect(tick.mm).toBeLessThanOrEqual(9.1 + 1e-6);
  }
});
