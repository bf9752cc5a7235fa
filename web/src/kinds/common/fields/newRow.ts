import type { PartSchema } from "../../../api/parts";
import { usePartSchemas } from "../../../state/partSchemas";

/** A whole new entry of a list, with an id of its own; the page shows it before the server has kept it. */
export function newRow(part: PartSchema | undefined, parameters: object = {}): Record<string, unknown> {
  return { ...part?.defaults, id: globalThis.crypto.randomUUID().slice(0, 8), ...parameters };
}

/** New entries of a list of the document, by their kind; "" where all are of one. */
export function useNewRow(document: object, at: string) {
  const kinds = usePartSchemas().kinds(document, at);
  return (kind: string, parameters: object = {}) => newRow(kinds[kind], kind ? { kind, ...parameters } : parameters);
}
