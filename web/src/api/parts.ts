import { useQuery } from "@tanstack/react-query";
import { answered, api } from "./client";
import type { components } from "./schema";

/** One parameter of a part: words, limits, unit, choices. */
export type PartField = components["schemas"]["PartField"];
export type PartSchema = components["schemas"]["PartSchema"];
export type Parts = components["schemas"]["Parts"];

/** All parts that pieces are made of, as the server tells them; they change only with the program. */
export function useParts() {
  return useQuery({ queryKey: ["parts"], queryFn: () => answered<Parts>(api.GET("/api/parts")), staleTime: Infinity });
}

/** A part of a document: how it is told apart from others of its place by its `kind` is looked up in its value. */
export function partAt(parts: Parts, root: string, document: object, at: string): PartSchema {
  let schema = partNamed(parts, root);
  let value: unknown = document;
  for (const name of at === "" ? [] : at.split(".")) {
    const field = fieldNamed(schema, name);
    value = (value as Record<string, unknown> | undefined)?.[name];
    const kind = Object.keys(field.kinds).length > 1 ? String((value as { kind?: string } | undefined)?.kind) : "";
    schema = partNamed(parts, field.kinds[kind] ?? "");
  }
  return schema;
}

/** The kinds of parts that a list holds, by the `kind` that tells them apart. */
export function kindsAt(parts: Parts, root: string, document: object, at: string): Record<string, PartSchema> {
  const { kinds } = fieldAt(parts, root, document, at);
  return Object.fromEntries(Object.entries(kinds).map(([kind, name]) => [kind, partNamed(parts, name)]));
}

/** A parameter by its place in the document, with dots between. */
export function fieldAt(parts: Parts, root: string, document: object, at: string): PartField {
  const names = at.split(".");
  return fieldNamed(partAt(parts, root, document, names.slice(0, -1).join(".")), names.at(-1) ?? "");
}

/** Whether a parameter counts, by what the others of its part are. */
export function counts(field: PartField, values: Record<string, unknown>): boolean {
  return Object.entries(field.shown).every(([name, wanted]) => wanted.includes(String(values[name])));
}

/** A parameter of a part by its name. */
export function fieldNamed(schema: PartSchema, name: string): PartField {
  const found = schema.fields.find((field) => field.name === name);
  if (!found) throw new Error(`The server tells nothing of ${name}.`);
  return found;
}

/** A part by its name in the schema. */
export function partNamed(parts: Parts, name: string): PartSchema {
  const found = parts.parts[name];
  if (!found) throw new Error(`The server tells of no part ${name}.`);
  return found;
}
