import { useId } from "react";
import Form from "react-bootstrap/Form";
import type { PartField } from "../../../api/parts";
import { Choice } from "../../../ui/Choice";
import { LengthField } from "../../../ui/LengthField";
import { NumberField } from "../../../ui/NumberField";

const SHORT_LABELS = 52;

export interface ControlProps {
  field: PartField;
  value: unknown;
  /** Beside the control, in place of the field's own. */
  label?: string;
  /** Of a choice: which alternatives there are here; all when left out. */
  offered?: (value: string) => boolean;
  /** Of a number, where another parameter tells it. */
  unit?: string;
  onDrag?: (value: number) => void;
  /** `words` say what was chosen, as a person reads it in the history. */
  onKeep: (value: unknown, words: string) => void;
}

/** The control of one parameter: a number with its slider, a switch, a choice, a colour. */
export function FieldControl(props: ControlProps) {
  switch (props.field.type) {
    case "number":
    case "whole":
      return <NumberControl {...props} />;
    case "choice":
      return <ChoiceControl {...props} />;
    case "switch":
      return <SwitchControl {...props} />;
    case "colour":
      return <ColourControl {...props} />;
    default:
      return null;
  }
}

function NumberControl({ field, value, label = field.label, unit = field.unit, onDrag, onKeep }: ControlProps) {
  const shown = {
    label,
    value: Number(value),
    lowest: field.lowest ?? -1e6,
    highest: field.highest ?? 1e6,
    slider: field.slider ? { from: field.slider[0], to: Math.max(field.slider[1], Number(value)) } : undefined,
    step: field.step,
    onDrag,
  };
  if (unit === "mm") return <LengthField {...shown} onKeep={(next) => onKeep(next, `${next} mm`)} />;
  const share = unit === "%" || unit === "tone";
  const behind = unit === "°" ? unit : unit && ` ${unit}`;
  return (
    <NumberField
      {...shown}
      unit={share ? "" : unit}
      share={share}
      whole={field.type === "whole"}
      onKeep={(next) => onKeep(next, share ? `${Math.round(next * 1000) / 10} %` : `${next}${behind}`)}
    />
  );
}

function ChoiceControl({ field, value, label = field.label, offered = () => true, onKeep }: ControlProps) {
  const id = useId();
  const all = Object.entries(field.choices).map(([each, words]) => ({ value: each, label: words }));
  const options = all.filter((option) => offered(option.value));
  const choose = (next: string) => onKeep(next, (field.choices[next] ?? next).toLowerCase());
  if (all.reduce((letters, option) => letters + option.label.length + 3, 0) <= SHORT_LABELS) {
    return (
      <div>
        <div className="mb-1">{label}</div>
        <Choice label={label} value={String(value)} options={options} onChange={choose} />
      </div>
    );
  }
  return (
    <div>
      <label className="mb-1" htmlFor={id}>
        {label}
      </label>
      <Form.Select id={id} size="sm" value={String(value)} onChange={(event) => choose(event.currentTarget.value)}>
        {options.map((option) => (
          <option key={option.value} value={option.value}>
            {option.label}
          </option>
        ))}
      </Form.Select>
    </div>
  );
}

function SwitchControl({ field, value, label = field.label, onKeep }: ControlProps) {
  const id = useId();
  return (
    <Form.Check
      type="switch"
      id={id}
      label={label}
      checked={Boolean(value)}
      onChange={(event) => onKeep(event.currentTarget.checked, event.currentTarget.checked ? "on" : "off")}
    />
  );
}

function ColourControl({ field, value, label = field.label, onKeep }: ControlProps) {
  const id = useId();
  const named = Object.entries(field.choices);
  return (
    <div className="d-flex align-items-center justify-content-between gap-2">
      <label htmlFor={id}>{label}</label>
      {named.length > 0 && (
        <Form.Select
          size="sm"
          aria-label={`${label}, by name`}
          value={String(value)}
          onChange={(event) => onKeep(event.currentTarget.value, (field.choices[event.currentTarget.value] ?? "").toLowerCase())}
        >
          {!(String(value) in field.choices) && <option value={String(value)}>Its own</option>}
          {named.map(([colour, words]) => (
            <option key={colour} value={colour}>
              {words}
            </option>
          ))}
        </Form.Select>
      )}
      <Form.Control id={id} type="color" size="sm" value={String(value)} onChange={(event) => onKeep(event.currentTarget.value, event.currentTarget.value)} />
    </div>
  );
}
