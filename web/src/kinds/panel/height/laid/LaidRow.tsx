import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import type { LaidRelief } from "../../../../api/client";
import type { PartSchema } from "../../../../api/parts";
import { usePartSchemas } from "../../../../state/partSchemas";
import { CurveGraph } from "../../../../ui/CurveGraph";
import { StepHead } from "../../../../ui/StepHead";
import { RowFields } from "../../../common/fields/RowFields";
import { StepRows } from "../steps/StepRows";

interface Props {
  relief: LaidRelief;
  part: PartSchema;
  open: boolean;
  first: boolean;
  last: boolean;
  onOpen: () => void;
  onDrag: (change: Partial<LaidRelief>) => void;
  onKeep: (what: string, change: Partial<LaidRelief>) => void;
  onMove: (by: -1 | 1) => void;
  onRemove: () => void;
}

const PLACE = ["width_mm", "turn_deg", "x_share", "y_share", "mirror"] as const;
const MEETING = ["blend", "blend_mm", "lift_mm"] as const;
const LEFT_OUT = ["left_out", "left_out_tone"] as const;
const RULE = ["kind", "tall", "relief_mm", "edge", "roof_deg", "edge_mm", "edge_tones", "strength"] as const;

/** One relief that is laid on the heights. */
export function LaidRow({ relief, part, open, first, last, onOpen, onDrag, onKeep, onMove, onRemove }: Props) {
  const ruled = usePartSchemas().named("HeightRule");
  const { source, rule, name } = relief;
  const keepRule = (what: string, change: Partial<LaidRelief["rule"]>) => onKeep(what, { rule: { ...rule, ...change } });
  const meeting = part.fields.find((field) => field.name === "blend");
  return (
    <section className="opening" aria-label={name}>
      <StepHead title={name} on={relief.on} onSwitch={(on) => onKeep(on ? "on" : "off", { on })} onRemove={onRemove} removeLabel={`Remove: ${name}`}>
        {!(first && last) && (
          <>
            <button type="button" className="icon-button" aria-label={`${name}: lower in the order`} disabled={first} onClick={() => onMove(-1)}>
              <i className="bi bi-arrow-up" aria-hidden="true" />
            </button>
            <button type="button" className="icon-button" aria-label={`${name}: higher in the order`} disabled={last} onClick={() => onMove(1)}>
              <i className="bi bi-arrow-down" aria-hidden="true" />
            </button>
          </>
        )}
        <button type="button" className="icon-button" aria-expanded={open} aria-label={`Change ${name}`} title="Change" onClick={onOpen}>
          <i className={`bi bi-chevron-${open ? "up" : "down"}`} aria-hidden="true" />
        </button>
      </StepHead>
      {open && (
        <>
          <RowFields part={part} row={relief} only={PLACE} onDrag={onDrag} onKeep={onKeep} />
          <RowFields part={part} row={relief} only={MEETING} onDrag={onDrag} onKeep={onKeep} />
          <p className="quiet-label">{meeting?.hints[relief.blend]}</p>
          <RowFields part={ruled} row={rule} only={RULE} onDrag={(change) => onDrag({ rule: { ...rule, ...change } })} onKeep={keepRule} />
          {rule.kind === "curve" && (
            <CurveGraph
              label="Height curve"
              points={rule.points as [number, number][]}
              counts={undefined}
              tell={(tone, share) => `${Math.round(tone * 100)} % stands ${Math.round(share * rule.relief_mm * 100) / 100} mm tall`}
              onDrag={(points) => onDrag({ rule: { ...rule, points: [...points] as [number, number][] } })}
              onKeep={(what, points) => keepRule(`height curve, ${what}`, { points: [...points] as [number, number][] })}
            />
          )}
          {rule.kind === "steps" && <StepRows steps={rule.steps} onKeep={(what, steps) => keepRule(what, { steps })} />}
          {source.kind === "picture" ? (
            <RowFields part={part} row={relief} only={LEFT_OUT} onDrag={onDrag} onKeep={onKeep} />
          ) : (
            <div className="d-flex align-items-center gap-2">
              <Form.Check
                type="switch"
                id={`follow-${relief.id}`}
                className="flex-grow-1"
                label="Follows its piece"
                checked={source.follow}
                onChange={(event) => onKeep(event.currentTarget.checked ? "follows its piece" : "a copy", { source: { ...source, follow: event.currentTarget.checked } })}
              />
              {source.piece_id && (
                <Link to={`/piece/${source.piece_id}`} className="quiet-label">
                  Open it
                </Link>
              )}
            </div>
          )}
        </>
      )}
    </section>
  );
}
