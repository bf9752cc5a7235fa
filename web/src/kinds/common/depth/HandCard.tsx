import { useEffect } from "react";
import type { FigureStroke } from "../../../api/client";
import type { PartSchema } from "../../../api/parts";
import { useBenchStore } from "../../../state/benchStore";
import { useDepthStore } from "../../../state/depthStore";
import { usePartSchemas } from "../../../state/partSchemas";
import { StepHead } from "../../../ui/StepHead";
import { WorkCard } from "../../../ui/WorkCard";
import { RowFields } from "../fields/RowFields";
import { patchAt } from "../fields/patchAt";
import { depthIn, type DepthWork } from "./depthHome";
import { STROKE_COLOURS } from "./strokeColours";

type Kind = FigureStroke["kind"];

/** Strokes that say what the picture cannot: which part is nearer, where an edge runs, what goes through. */
export function HandCard({ document, editing, at }: Pick<DepthWork, "document" | "editing" | "at">) {
  const part = usePartSchemas().kinds(document, `${at}.strokes`)[""] as PartSchema;
  const field = part.fields.find(({ name }) => name === "kind");
  const { kind, amountMm, set } = useDepthStore();
  const brush = useBenchStore((state) => state.brush);
  const setBench = useBenchStore((state) => state.set);
  const { strokes } = depthIn(document, at);
  useEffect(() => () => set({ kind: null }), [set]);
  const keep = (what: string, next: readonly FigureStroke[]) => editing.keep(what, patchAt(`${at}.strokes`, next));
  const named = (stroke: FigureStroke) => field?.choices[stroke.kind] ?? stroke.kind;
  const change = (row: { size_mm?: number; amount_mm?: number }) => {
    if (row.size_mm !== undefined) setBench({ brush: { ...brush, sizeMm: row.size_mm } });
    if (row.amount_mm !== undefined) set({ amountMm: row.amount_mm });
  };
  return (
    <WorkCard title={part.heading}>
      <div className="stroke-kinds" role="group" aria-label={field?.label}>
        {(Object.entries(field?.choices ?? {}) as [Kind, string][]).map(([name, words]) => (
          <button key={name} type="button" className="stroke-kind" aria-pressed={kind === name} onClick={() => set({ kind: kind === name ? null : name, marking: false })}>
            <i style={{ background: STROKE_COLOURS[name] }} aria-hidden="true" />
            {words}
          </button>
        ))}
      </div>
      {part.hint && <p className="quiet-label">{part.hint}</p>}
      {kind ? (
        <>
          <p className="quiet-label">{field?.hints[kind]} Draw on the Plan.</p>
          <RowFields
            part={part}
            row={{ kind, size_mm: brush.sizeMm, amount_mm: amountMm }}
            only={["size_mm", "amount_mm"]}
            onDrag={change}
            onKeep={(_, row) => change(row)}
          />
        </>
      ) : (
        <p className="quiet-label">Choose what a stroke does, then draw it on the Plan.</p>
      )}
      {strokes.map((stroke, at) => (
        <section key={stroke.id} className="opening" aria-label={`${named(stroke)}, stroke ${at + 1}`}>
          <StepHead
            title={named(stroke)}
            on={stroke.on}
            onSwitch={(on) => keep(`${named(stroke)} ${on ? "on" : "off"}`, strokes.map((each, i) => (i === at ? { ...each, on } : each)))}
            onRemove={() => keep(`${named(stroke)} removed`, strokes.filter((_, i) => i !== at))}
            removeLabel={`Remove stroke ${at + 1}`}
          />
          <div className="field-pairs">
            <RowFields
              part={part}
              row={stroke}
              only={["amount_mm"]}
              onKeep={(what, row) => keep(`${named(stroke)}, ${what}`, strokes.map((each, i) => (i === at ? { ...each, ...row } : each)))}
            />
          </div>
        </section>
      ))}
    </WorkCard>
  );
}
