/** The value at a place of a document, with dots between; the document itself at "". */
export function valueAt(document: object, at: string): unknown {
  const names = at === "" ? [] : at.split(".");
  return names.reduce<unknown>((value, name) => (value as Record<string, unknown> | null | undefined)?.[name], document);
}
