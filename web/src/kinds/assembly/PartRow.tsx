import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import type { PartSchema } from "../../api/parts";
import { StepHead } from "../../ui/StepHead";
import { Palette } from "../common/Palette";
import { RowFields } from "../common/fields/RowFields";
import type { PlacedPart } from "./assemblyEdits";

interface Props {
  part: PlacedPart;
  schema: PartSchema | undefined;
  ready: PartSchema | undefined;
  open: boolean;
  /** The first part, which others are lined up with. */
  over: PlacedPart | undefined;
  first: boolean;
  last: boolean;
  onOpen: () => void;
  onChange: (what: string, change: Partial<PlacedPart>) => void;
  onMove: (by: -1 | 1) => void;
  onCopy: () => void;
  onRemove: () => void;
}

const PLACE = ["how", "stands", "sink_mm", "x_mm", "y_mm", "z_mm", "turn_z_deg", "turn_x_deg", "turn_y_deg", "scale"] as const;
const SEVERAL = ["copies", "spread", "step_x_mm", "step_y_mm"] as const;

/** One part of a whole. */
export function PartRow({ part, schema, ready, open, over, first, last, onOpen, onChange, onMove, onCopy, onRemove }: Props) {
  if (!schema) return null;
  const { source } = part;
  return (
    <section className="opening" aria-label={part.name}>
      <StepHead title={part.name} on={part.on} onSwitch={(on) => onChange(on ? "on" : "off", { on })} onRemove={onRemove} removeLabel={`Remove: ${part.name}`}>
        {part.colour_on && <span className="part-swatch" style={{ background: part.colour }} aria-hidden="true" />}
        <button type="button" className="icon-button" aria-label={`${part.name}: earlier`} disabled={first} onClick={() => onMove(-1)}>
          <i className="bi bi-arrow-up" aria-hidden="true" />
        </button>
        <button type="button" className="icon-button" aria-label={`${part.name}: later`} disabled={last} onClick={() => onMove(1)}>
          <i className="bi bi-arrow-down" aria-hidden="true" />
        </button>
        <button type="button" className="icon-button" aria-expanded={open} aria-label={`Change ${part.name}`} title="Change" onClick={onOpen}>
          <i className={`bi bi-chevron-${open ? "up" : "down"}`} aria-hidden="true" />
        </button>
      </StepHead>
      {open && (
        <>
          <NameField key={part.name} name={part.name} onKeep={(name) => onChange(`called ${name}`, { name })} />
          {source.kind === "piece" ? (
            <div className="d-flex align-items-center gap-2">
              <Form.Check
                type="switch"
                id={`follow-${part.id}`}
                className="flex-grow-1"
                label="Follows its piece"
                checked={source.follow}
                onChange={(event) => onChange(event.currentTarget.checked ? "follows its piece" : "a copy", { source: { ...source, follow: event.currentTarget.checked } })}
              />
              {source.piece_id && (
                <Link to={`/piece/${source.piece_id}`} className="quiet-label">
                  Open it
                </Link>
              )}
            </div>
          ) : (
            ready && (
              <>
                <RowFields part={ready} row={source} onKeep={(what, change) => onChange(what, { source: { ...source, ...change } })} />
                {["plate", "disc", "plinth"].includes(source.shape) && (
                  <NameField key={source.text} label="Raised letters" name={source.text} empty onKeep={(text) => onChange("letters", { source: { ...source, text } })} />
                )}
              </>
            )
          )}
          <RowFields part={schema} row={part} only={PLACE} onKeep={onChange} />
          {over && over.id !== part.id && (
            <button type="button" className="btn btn-sm btn-outline-secondary w-100" onClick={() => onChange(`lined up with ${over.name}`, { x_mm: over.x_mm, y_mm: over.y_mm })}>
              Line up with {over.name}
            </button>
          )}
          <button type="button" className="btn btn-sm btn-outline-secondary w-100" aria-label={`Another one like it: ${part.name}`} onClick={onCopy}>
            Another one like it
          </button>
          <RowFields part={schema} row={part} only={part.copies > 1 ? SEVERAL : ["copies"]} onKeep={onChange} />
          <RowFields part={schema} row={part} only={["colour_on", "colour"]} onKeep={onChange} />
          {part.colour_on && <Palette value={part.colour} onChoose={(colour, name) => onChange(name, { colour })} />}
        </>
      )}
    </section>
  );
}

function NameField({ name, label = "Name", empty = false, onKeep }: { name: string; label?: string; empty?: boolean; onKeep: (name: string) => void }) {
  return (
    <label className="d-block">
      {label}
      <input
        type="text"
        className="form-control form-control-sm"
        defaultValue={name}
        maxLength={empty ? 200 : 80}
        onBlur={(event) => {
          const next = event.currentTarget.value.trim();
          if (next !== name && (next || empty)) onKeep(next);
        }}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      />
    </label>
  );
}
