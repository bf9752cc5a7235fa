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
  return thickness_mm.map((mm, i) => ({ mm, text: readingText(brightness[i] ?? 0) }));
}

/** A reading as it is typed. */
export function readingText(brightness: number): string {
  return `${Number(brightness.toPrecision(5))}`;
}

/** What was typed, without rows left empty; what is no number is left for the server to refuse. `dark` is what was read with the light covered, `edge` what was read across a step. */
export function readingsOf(rows: readonly ReadingRow[], dark: string, edge: Readings["edge"] = []): Readings {
  const read = rows.filter((row) => row.text.trim());
  return {
    thickness_mm: read.map((row) => row.mm),
    brightness: read.map((row) => numberOf(row.text)),
    dark: dark.trim() ? [numberOf(dark)] : [],
    edge,
  };
}

function numberOf(text: string): number {
  return Number(text.trim().replace(",", "."));
}
