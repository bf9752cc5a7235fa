import { counts } from "../../../api/parts";
import { usePartSchemas } from "../../../state/partSchemas";
import type { Editing } from "../../../state/useEditing";
import { patchAt } from "./patchAt";
import { FieldControl } from "./FieldControl";
import { valueAt } from "./valueAt";

/** What a field needs of the station that it stands in. */
export interface Work {
  document: object;
  editing: Editing;
}

interface Props extends Work {
  /** Where the parameter stands in the document, with dots between. */
  at: string;
  /** In place of the server's own. */
  label?: string;
}

/** One parameter of the document; nothing where it does not count. */
export function PartField({ document, editing, at, label }: Props) {
  const schemas = usePartSchemas();
  const field = schemas.field(document, at);
  const part = valueAt(document, at.split(".").slice(0, -1).join("."));
  if (!counts(field, part as Record<string, unknown>)) return null;
  return (
    <FieldControl
      field={field}
      value={valueAt(document, at)}
      label={label}
      onDrag={(value) => editing.drag(patchAt(at, value))}
      onKeep={(value, words) => editing.keep(`${label ?? field.label} ${words}`, patchAt(at, value))}
    />
  );
}

interface PartProps extends Work {
  at: string;
  without?: readonly string[];
  labels?: Record<string, string>;
}

/** All parameters of a part that have a control, but the switch of the part itself. */
export function PartFields({ at, without = [], labels, ...work }: PartProps) {
  const { fields } = usePartSchemas().part(work.document, at);
  return fields
    .filter(({ name }) => name !== "on" && !without.includes(name))
    .map(({ name }) => <PartField key={name} {...work} at={`${at}.${name}`} label={labels?.[name]} />);
}
