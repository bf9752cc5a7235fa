import type { WorkedDocument } from "../../api/client";

/** What is put together is not known before it is; first sizes on it are taken by this. */
const WHOLE_MM = 80;

/** The longest side of what a document starts from, mm: what first sizes on it are taken by. */
export function longestMm(document: WorkedDocument): number {
  if ("model" in document) return Math.max(...document.model.size_mm);
  return "figure" in document ? document.figure.width_mm : WHOLE_MM;
}
