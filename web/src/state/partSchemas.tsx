import { createContext, useContext, useMemo, type ReactNode } from "react";
import { fieldAt, kindsAt, partAt, partNamed, type PartField, type Parts, type PartSchema } from "../api/parts";

interface Schemas {
  /** A parameter of a document, by its place with dots between. */
  field: (document: object, at: string) => PartField;
  part: (document: object, at: string) => PartSchema;
  /** What a list of a document can hold. */
  kinds: (document: object, at: string) => Record<string, PartSchema>;
  /** A part that stands in no fixed place, such as a stroke of a brush. */
  named: (name: string) => PartSchema;
}

const Context = createContext<Schemas | null>(null);

interface Props {
  parts: Parts;
  /** The kind of piece that is worked on. */
  kind: string;
  children: ReactNode;
}

/** What the server told of the parts of the kind of piece that is worked on. */
export function PartSchemasProvider({ parts, kind, children }: Props) {
  const schemas = useMemo(() => {
    const root = parts.documents[kind] ?? "";
    return {
      field: (document: object, at: string) => fieldAt(parts, root, document, at),
      part: (document: object, at: string) => partAt(parts, root, document, at),
      kinds: (document: object, at: string) => kindsAt(parts, root, document, at),
      named: (name: string) => partNamed(parts, name),
    };
  }, [parts, kind]);
  return <Context.Provider value={schemas}>{children}</Context.Provider>;
}

export function usePartSchemas(): Schemas {
  const schemas = useContext(Context);
  if (!schemas) throw new Error("Fields stand inside a bench, which knows their parts.");
  return schemas;
}
