import type { WorkedDocument } from "../../api/client";

/** The longest side of what a document starts from, mm: what first sizes on it are taken by. */
export function longestMm(document: WorkedDocument): number {
  return "model" in document ? Math.max(...document.model.size_mm) : document.figure.width_mm;
}
