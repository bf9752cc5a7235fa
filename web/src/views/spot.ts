import type { HeightGrid, PlanHead } from "../api/preview";
import type { Line, Spot } from "../state/benchStore";

export interface Sample {
  /** 0 black to 1 white. */
  tone: number;
  /** Above the backing, mm; NaN where there is no material. */
  height: number;
}

/** The sample nearest to a spot, or null outside the piece. */
export function sampleAt(grid: HeightGrid, head: PlanHead, spot: Spot): Sample | null {
  const [width, depth] = head.size_mm;
  if (spot.x < 0 || spot.y < 0 || spot.x > width || spot.y > depth) return null;
  const column = Math.round((spot.x / width) * (grid.columns - 1));
  const row = Math.round((1 - spot.y / depth) * (grid.rows - 1));
  const at = row * grid.columns + column;
  return { tone: (grid.tones[at] ?? 0) / 65535, height: (grid.walls ?? grid.heights)[at] ?? Number.NaN };
}

/** The section line as people first see it: across the middle. As shares of width and depth. */
export const FIRST_LINE: Line = { start: { x: 0, y: 0.5 }, end: { x: 1, y: 0.5 } };

/** A line given in shares of the piece's size, in mm. */
export function lineInMm(line: Line, [width, depth]: readonly [number, number, number]): Line {
  const place = (spot: Spot) => ({ x: spot.x * width, y: spot.y * depth });
  return { start: place(line.start), end: place(line.end) };
}

export function lineLength({ start, end }: Line): number {
  return Math.hypot(end.x - start.x, end.y - start.y);
}

/** How far along the line, and how far beside it, a spot lies. */
export function alongLine({ start, end }: Line, spot: Spot): { along: number; beside: number } {
  const length = lineLength({ start, end });
  const ux = (end.x - start.x) / length;
  const uy = (end.y - start.y) / length;
  const dx = spot.x - start.x;
  const dy = spot.y - start.y;
  return { along: dx * ux + dy * uy, beside: Math.abs(dy * ux - dx * uy) };
}

export function spotOnLine({ start, end }: Line, along: number): Spot {
  const share = along / lineLength({ start, end });
  return { x: start.x + share * (end.x - start.x), y: start.y + share * (end.y - start.y) };
}

export function clampShare(value: number): number {
  return Math.min(1, Math.max(0, value));
}
