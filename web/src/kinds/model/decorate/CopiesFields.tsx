import Form from "react-bootstrap/Form";
import type { Decoration } from "../../../api/decorations";
import { LengthField } from "../../../ui/LengthField";
import { NumberField } from "../../../ui/NumberField";
import type { DecorationFieldsProps } from "./DecorationFields";

type Kind = Decoration["copies"]["kind"] | "tiled";
const KINDS: readonly { value: Kind; label: string }[] = [
  { value: "once", label: "Once" },
  { value: "row", label: "In a row" },
  { value: "ring", label: "Round the axis, evenly" },
  { value: "grid", label: "On a grid" },
  { value: "scatter", label: "Scattered" },
  { value: "tiled", label: "All over, as a texture" },
];

/** How a decoration is repeated; every copy follows it. */
export function CopiesFields({ decoration, onDrag, onKeep }: DecorationFieldsProps) {
  const { copies } = decoration;
  const kind: Kind = decoration.tiled ? "tiled" : copies.kind;
  const change = (what: string, part: Partial<Decoration["copies"]>) => onKeep(what, { copies: { ...copies, ...part } });
  const drag = (part: Partial<Decoration["copies"]>) => onDrag({ copies: { ...copies, ...part } });
  const choose = (next: Kind) =>
    onKeep("repeat", next === "tiled" ? { tiled: true } : { tiled: false, copies: { ...copies, kind: next } });
  const many = kind !== "once" && kind !== "tiled";
  const spaced = kind === "row" || kind === "grid" || kind === "scatter";
  return (
    <>
      <div>
        <label className="mb-1" htmlFor={`repeat-${decoration.id}`}>
          Repeat
        </label>
        <Form.Select id={`repeat-${decoration.id}`} size="sm" value={kind} onChange={(event) => choose(event.currentTarget.value as Kind)}>
          {KINDS.map(({ value, label }) => (
            <option key={value} value={value}>
              {label}
            </option>
          ))}
        </Form.Select>
      </div>
      {many && <NumberField label={kind === "grid" ? "Columns" : "Copies"} unit="" whole value={copies.count} lowest={1} highest={400} step={1} onKeep={(count) => change(`${count} copies`, { count })} />}
      {kind === "grid" && <NumberField label="Rows" unit="" whole value={copies.rows} lowest={1} highest={100} step={1} onKeep={(rows) => change(`${rows} rows`, { rows })} />}
      {spaced && (
        <LengthField label={kind === "scatter" ? "At least apart" : "From middle to middle"} value={copies.across_mm} lowest={0.01} highest={3000} step={0.5} slider={{ from: 1, to: Math.max(60, copies.across_mm) }} onDrag={(across_mm) => drag({ across_mm })} onKeep={(across_mm) => change(`${across_mm} mm apart`, { across_mm })} />
      )}
      {(kind === "grid" || kind === "scatter") && (
        <LengthField label={kind === "grid" ? "From row to row" : "Within"} value={copies.up_mm} lowest={0.01} highest={3000} step={0.5} slider={{ from: 1, to: Math.max(60, copies.up_mm) }} onDrag={(up_mm) => drag({ up_mm })} onKeep={(up_mm) => change(`${up_mm} mm`, { up_mm })} />
      )}
      {many && <NumberField label={kind === "scatter" ? "Turned by up to" : "Each turned further by"} unit="°" value={copies.turn_deg} lowest={-360} highest={360} step={5} onKeep={(turn_deg) => change(`turned by ${turn_deg}°`, { turn_deg })} />}
      {kind === "scatter" && <NumberField label="Seed" unit="" whole value={copies.seed} lowest={0} highest={1_000_000} step={1} onKeep={(seed) => change(`seed ${seed}`, { seed })} />}
    </>
  );
}
