import type { AssemblyDocument } from "../../api/client";

export type PlacedPart = AssemblyDocument["assembly"][number];

/** The list with one part changed. */
export function withPart(parts: readonly PlacedPart[], id: string, change: Partial<PlacedPart>): PlacedPart[] {
  return parts.map((part) => (part.id === id ? { ...part, ...change } : part));
}

/** The list with one part a place earlier or later; what stands on others stands on those before it. */
export function movedPart(parts: readonly PlacedPart[], id: string, by: -1 | 1): PlacedPart[] {
  const at = parts.findIndex((part) => part.id === id);
  const part = parts[at];
  const to = at + by;
  if (!part || to < 0 || to >= parts.length) return [...parts];
  const others = parts.filter((each) => each.id !== id);
  return [...others.slice(0, to), part, ...others.slice(to)];
}

/** Where a part comes to stand on the Plan when it is dragged, rounded to 0.01 mm. */
export function movedTo({ x_mm, y_mm }: PlacedPart, by: { x: number; y: number }): Pick<PlacedPart, "x_mm" | "y_mm"> {
  return { x_mm: Math.round((x_mm + by.x) * 100) / 100, y_mm: Math.round((y_mm + by.y) * 100) / 100 };
}
