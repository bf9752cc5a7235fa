import Form from "react-bootstrap/Form";
import type { OpField, OpKind, PictureOp } from "../../../api/ops";
import { Choice } from "../../../ui/Choice";
import { LengthField } from "../../../ui/LengthField";
import { NumberField } from "../../../ui/NumberField";
import { ColourField } from "./ColourField";
import { TextField } from "./TextField";

const SHORT_LABELS = 34;

interface Props {
  pieceId: string;
  kind: OpKind;
  op: PictureOp;
  onDrag: (parameters: Record<string, unknown>) => void;
  onKeep: (label: string, parameters: Record<string, unknown>) => void;
}

/** The parameters of an op that are numbers, choices, switches, colours and words. */
export function OpFields({ pieceId, kind, op, onDrag, onKeep }: Props) {
  const counts = (field: OpField) =>
    Object.entries(field.shown ?? {}).every(([name, values]) => values.includes(String(op[name])));
  return (
    <>
      {kind.fields
        .filter((field) => field.type !== "by_hand" && counts(field))
        .map((field) => (
          <OneField key={field.name} pieceId={pieceId} field={field} op={op} onDrag={onDrag} onKeep={onKeep} />
        ))}
    </>
  );
}

function OneField({ pieceId, field, op, onDrag, onKeep }: Omit<Props, "kind"> & { field: OpField }) {
  const { name, title } = field;
  const keep = (value: unknown, words = String(value)) => onKeep(`${title.toLowerCase()} ${words}`, { [name]: value });
  if (field.type === "number" || field.type === "whole") {
    const told = field.unit in op ? String(op[field.unit]) : field.unit;
    const common = {
      label: title,
      value: Number(op[name]),
      lowest: field.lowest ?? -1e6,
      highest: field.highest ?? 1e6,
      slider: field.slider ? { from: Number(field.slider[0]), to: Number(field.slider[1]) } : undefined,
      step: field.step,
      onDrag: (value: number) => onDrag({ [name]: value }),
    };
    if (told === "mm") return <LengthField {...common} onKeep={(value) => keep(value, `${value} mm`)} />;
    const share = field.unit === "%" || field.unit === "tone";
    return (
      <NumberField
        {...common}
        unit={told}
        share={share}
        whole={field.type === "whole"}
        onKeep={(value) => keep(value, share ? `${Math.round(value * 1000) / 10} %` : `${value} ${told}`.trim())}
      />
    );
  }
  if (field.type === "choice") {
    const options = Object.entries(field.choices ?? {}).map(([value, label]) => ({ value, label: String(label) }));
    const chosen = String(op[name]);
    const choose = (value: string) => keep(value, options.find((option) => option.value === value)?.label ?? value);
    const short = options.reduce((letters, { label }) => letters + label.length + 3, 0) <= SHORT_LABELS;
    return (
      <div>
        <div className="mb-1">{title}</div>
        {short ? (
          <Choice label={title} value={chosen} options={options} onChange={choose} />
        ) : (
          <Form.Select size="sm" aria-label={title} value={chosen} onChange={(event) => choose(event.currentTarget.value)}>
            {options.map(({ value, label }) => (
              <option key={value} value={value}>
                {label}
              </option>
            ))}
          </Form.Select>
        )}
      </div>
    );
  }
  if (field.type === "switch") {
    return (
      <Form.Check
        type="switch"
        id={`${op.id}-${name}`}
        label={title}
        checked={Boolean(op[name])}
        onChange={(event) => keep(event.currentTarget.checked, event.currentTarget.checked ? "on" : "off")}
      />
    );
  }
  if (field.type === "colour") return <ColourField pieceId={pieceId} label={title} value={String(op[name])} onKeep={keep} />;
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
