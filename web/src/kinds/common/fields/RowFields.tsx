import { counts, type PartSchema } from "../../../api/parts";
import { FieldControl } from "./FieldControl";

interface Props<Row extends object> {
  part: PartSchema;
  /** One entry of a list of the document. */
  row: Row;
  /** Which parameters, in this order; all that have a control when left out. */
  only?: readonly (keyof Row & string)[];
  labels?: Partial<Record<keyof Row, string>>;
  onDrag?: (change: Partial<Row>) => void;
  onKeep: (what: string, change: Partial<Row>) => void;
}

/** Parameters of one entry of a list. */
export function RowFields<Row extends object>({ part, row, only, labels, onDrag, onKeep }: Props<Row>) {
  const values = row as Record<string, unknown>;
  const wanted = only ?? part.fields.map(({ name }) => name).filter((name) => name !== "on" && name !== "id");
  return wanted.map((name) => {
    const field = part.fields.find((each) => each.name === name);
    if (!field || !counts(field, values)) return null;
    const label = labels?.[name as keyof Row] ?? field.label;
    return (
      <FieldControl
        key={name}
        field={field}
        value={values[name]}
        label={label}
        onDrag={onDrag && ((value) => onDrag({ [name]: value } as Partial<Row>))}
        onKeep={(value, words) => onKeep(`${label.toLowerCase()} ${words}`, { [name]: value } as Partial<Row>)}
      />
    );
  });
}
