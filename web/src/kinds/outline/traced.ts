import type { OutlineDocument, TracedDocument } from "../../api/client";

/** Whether the outlines are those of a picture; those of a drawing are read, not traced. */
export function isTraced(document: OutlineDocument): document is TracedDocument {
  return "trace" in document;
}
