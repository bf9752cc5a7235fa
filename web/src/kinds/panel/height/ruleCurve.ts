import type { HeightGrid } from "../../../api/preview";
import type { PanelDocument } from "../../../api/client";

export type Rule = PanelDocument["height"]["rule"];
/** Tone 0..1 and height in mm. */
export type RulePoint = readonly [number, number];

const BINS = 64;

/** The rule as a line from black to white; null where the height does not depend on the tone alone. */
export function ruleLine(rule: Rule): RulePoint[] | null {
  if (rule.kind === "steps") {
    const rows = rule.steps;
    return rows.flatMap(({ tone, mm }, at) => {
      const before = rows[at - 1];
      const after = rows[at + 1];
      const from = before ? (before.tone + tone) / 2 : 0;
      const to = after ? (after.tone + tone) / 2 : 1;
      return [[from, mm] as const, [to, mm] as const];
    });
  }
  if (rule.kind === "straight") {
    const ends = [0, rule.relief_mm] as const;
    return rule.tall === "bright" ? [[0, ends[0]], [1, ends[1]]] : [[0, ends[1]], [1, ends[0]]];
  }
  return null;
}

/** The mean height that every tone has got. */
export function meanHeights({ tones, heights }: HeightGrid): RulePoint[] {
  const sums = new Float64Array(BINS);
  const counts = new Uint32Array(BINS);
  tones.forEach((tone, i) => {
    const height = heights[i] ?? Number.NaN;
    if (Number.isNaN(height)) return;
    const bin = Math.min(BINS - 1, Math.floor((tone / 65_536) * BINS));
    sums[bin] = (sums[bin] ?? 0) + height;
    counts[bin] = (counts[bin] ?? 0) + 1;
  });
  const line: RulePoint[] = [];
  counts.forEach((count, bin) => {
    if (count > 0) line.push([(bin + 0.5) / BINS, (sums[bin] ?? 0) / count]);
  });
  return line;
}

/** The height of a tone on a line, held at its ends. */
export function heightOn(line: readonly RulePoint[], tone: number): number {
  const at = line.findIndex(([x]) => x >= tone);
  const [x1, y1] = line[at < 0 ? line.length - 1 : at] ?? [0, 0];
  const [x0, y0] = line[at < 0 ? line.length - 1 : Math.max(0, at - 1)] ?? [0, 0];
  return x1 > x0 ? y0 + ((tone - x0) / (x1 - x0)) * (y1 - y0) : y1;
}
