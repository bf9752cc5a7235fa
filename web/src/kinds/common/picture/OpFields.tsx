import type { OpKind, PictureOp } from "../../../api/ops";
import { counts, type PartField } from "../../../api/parts";
import { FieldControl } from "../fields/FieldControl";
import { ColourField } from "./ColourField";
import { TextField } from "./TextField";

interface Props {
  pieceId: string;
  kind: OpKind;
  op: PictureOp;
  onDrag: (parameters: Record<string, unknown>) => void;
  onKeep: (label: string, parameters: Record<string, unknown>) => void;
}

/** The parameters of an op that are numbers, choices, switches, colours and words. */
export function OpFields({ pieceId, kind, op, onDrag, onKeep }: Props) {
  return (
    <>
      {kind.fields
        .filter((field) => field.type !== "by_hand" && counts(field, op))
        .map((field) => (
          <OneField key={field.name} pieceId={pieceId} field={field} op={op} onDrag={onDrag} onKeep={onKeep} />
        ))}
    </>
  );
}

function OneField({ pieceId, field, op, onDrag, onKeep }: Omit<Props, "kind"> & { field: PartField }) {
  const { name, title } = field;
  const keep = (value: unknown, words = String(value)) => onKeep(`${title.toLowerCase()} ${words}`, { [name]: value });
  if (field.type === "colour") return <ColourField pieceId={pieceId} label={title} value={String(op[name])} onKeep={keep} />;
  if (field.type !== "text") {
    const named = op[field.unit];
    const unit = typeof named === "string" ? named : field.unit;
    return <FieldControl field={field} unit={unit} value={op[name]} onDrag={(value) => onDrag({ [name]: value })} onKeep={keep} />;
  }
  return (
    <TextField
      label={title}
      value={String(op[name])}
      lines={Boolean(field.many_lines)}
      onDrag={(text) => onDrag({ [name]: text })}
      onKeep={(text) => keep(text, `“${text}”`)}
    />
  );
}
