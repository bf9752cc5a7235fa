import type { MergePatch } from "../../api/preview";
import type { Editing } from "../../state/useEditing";
import { Choice } from "../../ui/Choice";
import { LengthField } from "../../ui/LengthField";
import type { MeasureProps } from "../../ui/MeasureField";
import { NumberField } from "../../ui/NumberField";
import { patchAt } from "./patchAt";

interface Bound {
  editing: Editing;
  /** Where the value stands in the document, with dots between. */
  at: string;
}

type Measured = Omit<MeasureProps, "onDrag" | "onKeep"> & Bound;

/** A length of the document. */
export function BoundLength({ editing, at, ...props }: Measured) {
  return (
    <LengthField
      {...props}
      onDrag={(value) => editing.drag(patchAt(at, value))}
      onKeep={(value) => editing.keep(`${props.label} ${value} mm`, patchAt(at, value))}
    />
  );
}

/** A plain number, an angle or a share of the document. */
export function BoundNumber({ editing, at, ...props }: Measured & { unit: string; share?: boolean; whole?: boolean }) {
  const told = (value: number) => (props.share ? `${Math.round(value * 100)} %` : `${value}${props.unit && ` ${props.unit}`}`);
  return (
    <NumberField
      {...props}
      onDrag={(value) => editing.drag(patchAt(at, value))}
      onKeep={(value) => editing.keep(`${props.label} ${told(value)}`, patchAt(at, value))}
    />
  );
}

interface Shared extends Bound {
  label: string;
  value: number;
  /** 1 when left out. */
  highest?: number;
  /** Where the slider ends; 1 when left out. */
  to?: number;
}

/** A share of the document from 0 to 1 or a little more, in per cent. */
export function BoundShare({ highest = 1, to = 1, ...props }: Shared) {
  return <BoundNumber {...props} share unit="" lowest={0} highest={highest} slider={{ from: 0, to }} step={0.01} />;
}

interface Chosen<Value extends string> extends Bound {
  label: string;
  value: Value;
  options: readonly { value: Value; label: string }[];
}

/** A few alternatives of the document, under a visible label. */
export function BoundChoice<Value extends string>({ editing, at, label, value, options }: Chosen<Value>) {
  const keep = (next: Value) => {
    const name = options.find((option) => option.value === next)?.label ?? next;
    editing.keep(`${label} ${name.toLowerCase()}`, patchAt(at, next));
  };
  return (
    <div>
      <div className="mb-1">{label}</div>
      <Choice label={label} value={value} options={options} onChange={keep} />
    </div>
  );
}

/** What a card needs to be switched on and off as one step. */
export function switchAt(editing: Editing, title: string, at: string) {
  return (on: boolean) => editing.keep(`${title} ${on ? "on" : "off"}`, patchAt(at, on) satisfies MergePatch);
}
