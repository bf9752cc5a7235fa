import Form from "react-bootstrap/Form";
import type { Decoration } from "../../../api/decorations";
import { fieldNamed } from "../../../api/parts";
import { RowFields } from "../fields/RowFields";
import type { DecorationFieldsProps } from "./DecorationFields";
import { GrainFields } from "./GrainFields";
import { useDecorationParts } from "./useDecorationParts";

type Copies = Decoration["copies"];
type Kind = Copies["kind"] | "tiled";
/** The same measure means something else in another arrangement. */
const LABELS: Partial<Record<Kind, Partial<Record<keyof Copies, string>>>> = {
  grid: { count: "Columns" },
  scatter: { across_mm: "At least apart", up_mm: "Within", turn_deg: "Turned by up to" },
};

/** How a decoration is repeated; every copy follows it. */
export function CopiesFields({ decoration, onDrag, onKeep }: DecorationFieldsProps) {
  const { copies } = decoration;
  const part = useDecorationParts().copies;
  const { label, choices } = fieldNamed(part, "kind");
  const kind: Kind = decoration.tiled ? "tiled" : copies.kind;
  const choose = (next: Kind) =>
    onKeep("repeat", next === "tiled" ? { tiled: true } : { tiled: false, copies: { ...copies, kind: next } });
  return (
    <>
      <div>
        <label className="mb-1" htmlFor={`repeat-${decoration.id}`}>
          {label}
        </label>
        <Form.Select id={`repeat-${decoration.id}`} size="sm" value={kind} onChange={(event) => choose(event.currentTarget.value as Kind)}>
          {Object.entries({ ...choices, tiled: "All over, as a texture" }).map(([value, words]) => (
            <option key={value} value={value}>
              {words}
            </option>
          ))}
        </Form.Select>
      </div>
      {kind === "tiled" && decoration.lie === "follow" && <GrainFields decoration={decoration} onDrag={onDrag} onKeep={onKeep} />}
      {kind !== "tiled" && (
        <RowFields
          part={part}
          row={copies}
          only={["count", "rows", "across_mm", "up_mm", "turn_deg", "seed"]}
          labels={LABELS[kind]}
          onDrag={(change) => onDrag({ copies: { ...copies, ...change } })}
          onKeep={(what, change) => onKeep(what, { copies: { ...copies, ...change } })}
        />
      )}
    </>
  );
}
