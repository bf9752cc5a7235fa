import Form from "react-bootstrap/Form";
import type { Decoration } from "../../../api/decorations";
import type { WorkedStationProps } from "../stationProps";
import { PartField } from "../fields/PartField";
import { StepHead } from "../../../ui/StepHead";
import { WorkCard } from "../../../ui/WorkCard";
import { ArtPicker } from "./ArtPicker";
import { BrushCard } from "./BrushCard";
import { DecorationFields } from "./DecorationFields";
import { withDecoration, withDecorationMoved, wordsOf } from "./decorations";
import { useDecorStore } from "../../../state/decorStore";
import { useDecorating } from "./useDecorating";

/** Decorations on a model: laid with the hand, kept as steps, never baked in before delivery. */
export function DecorateCards({ pieceId, revision, document, editing }: WorkedStationProps) {
  useDecorating(pieceId, document, editing);
  const chosen = useDecorStore((state) => state.chosen);
  const fresh = useDecorStore((state) => state.fresh);
  const refusal = useDecorStore((state) => state.refusal);
  const stretchShown = useDecorStore((state) => state.stretchShown);
  const set = useDecorStore((state) => state.set);
  const { decorations } = document;
  const keep = (label: string, next: readonly Decoration[]) => editing.keep(label, { decorations: next });
  return (
    <>
      <WorkCard title="Decorations">
        {decorations.length === 0 && !fresh && <p className="quiet-label">Nothing is laid on yet. Choose a motif or a file, point at the model, and press.</p>}
        {decorations.map((each, at) => (
          <section key={each.id} className="opening" aria-label={`Decoration ${each.art.name}`}>
            <StepHead
              title={each.art.name}
              on={each.on}
              onSwitch={(on) => keep(`${each.art.name} ${on ? "on" : "off"}`, withDecoration(decorations, each.id, { on }))}
              onRemove={() => keep(`${each.art.name} removed`, decorations.filter((other) => other.id !== each.id))}
              removeLabel={`Remove: ${each.art.name}`}
            >
              <button type="button" className="icon-button" aria-label={`${each.art.name}: lower in the order`} disabled={at === 0} onClick={() => keep(`${each.art.name} moved`, withDecorationMoved(decorations, each.id, -1))}>
                <i className="bi bi-arrow-up" aria-hidden="true" />
              </button>
              <button type="button" className="icon-button" aria-label={`${each.art.name}: higher in the order`} disabled={at === decorations.length - 1} onClick={() => keep(`${each.art.name} moved`, withDecorationMoved(decorations, each.id, 1))}>
                <i className="bi bi-arrow-down" aria-hidden="true" />
              </button>
            </StepHead>
            <button type="button" className="decor-words" aria-expanded={chosen === each.id} onClick={() => set({ chosen: chosen === each.id ? null : each.id, fresh: null, tool: null })}>
              <i className={`bi bi-chevron-${chosen === each.id ? "down" : "right"} me-1`} aria-hidden="true" />
              {each.width_mm} mm wide, {wordsOf(each)}
            </button>
            {chosen === each.id && (
              <DecorationFields
                pieceId={pieceId}
                decoration={each}
                onDrag={(change) => editing.drag({ decorations: withDecoration(decorations, each.id, change) })}
                onKeep={(what, change) => keep(`${each.art.name}: ${what}`, withDecoration(decorations, each.id, change))}
              />
            )}
          </section>
        ))}
        <ArtPicker document={document} />
        {refusal && (
          <p className="measure-refusal" role="alert">
            {refusal}
          </p>
        )}
        {decorations.length > 0 && (
          <>
            <Form.Check
              id="stretch-shown"
              type="switch"
              label="Show stretch on the model"
              checked={stretchShown}
              onChange={(event) => set({ stretchShown: event.currentTarget.checked })}
            />
            {stretchShown && (
              <p className="stretch-legend" aria-hidden="true">
                <span>0 %</span>
                <i />
                <span>30 % and more</span>
              </p>
            )}
            <PartField document={document} editing={editing} at="thinnest_wall_mm" />
          </>
        )}
      </WorkCard>
      <BrushCard pieceId={pieceId} revision={revision} document={document} editing={editing} />
    </>
  );
}
