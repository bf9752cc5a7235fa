import type { Readings } from "../../api/client";

/** One step of a wedge, and what was typed for it; a thickness of 0 is the bare light. */
export interface ReadingRow {
  mm: number;
  text: string;
}

export function emptyRows(steps: readonly number[]): ReadingRow[] {
  return [0, ...steps].map((mm) => ({ mm, text: "" }));
}

export function rowsOf({ thickness_mm, brightness }: Readings): ReadingRow[] {
  return thickness_mm.map((mm, i) => ({ mm, text: `${Number((brightness[i] ?? 0).toPrecision(5))}` }));
}

/** What was typed, without rows left empty; what is no number is left for the server to refuse. */
export function readingsOf(rows: readonly ReadingRow[]): Readings {
  const read = rows.filter((row) => row.text.trim());
  return {
    thickness_mm: read.map((row) => row.mm),
    brightness: read.map((row) => Number(row.text.trim().replace(",", "."))),
  };
}
