import { useEffect } from "react";
import type { AnyDocument, HeightStroke } from "../../../api/client";
import { useBenchStore } from "../../../state/benchStore";
import { useModellingStore } from "../../../state/modellingStore";
import { usePartSchemas } from "../../../state/partSchemas";
import type { Editing } from "../../../state/useEditing";
import { Button } from "../../../ui/Button";
import { StepHead } from "../../../ui/StepHead";
import { WorkCard } from "../../../ui/WorkCard";
import { RowFields } from "../fields/RowFields";
import { patchAt } from "../fields/patchAt";
import { valueAt } from "../fields/valueAt";

interface Props {
  document: AnyDocument;
  editing: Editing;
  /** Where its strokes stand in the document. */
  at: string;
  /** Whether they are drawn on the Model, too: its places are those of the Plan where nothing is bent. */
  onModel?: boolean;
}

type Tool = HeightStroke["tool"];

/** Strokes that shape the heights themselves, drawn on the Plan or the Model. */
export function ModellingCard({ document, editing, at, onModel = true }: Props) {
  const part = usePartSchemas().named("HeightStroke");
  const tools = part.fields.find(({ name }) => name === "tool");
  const { tool, how, set } = useModellingStore();
  const brush = useBenchStore((state) => state.brush);
  const setBench = useBenchStore((state) => state.set);
  const strokes = valueAt(document, at) as readonly HeightStroke[];
  useEffect(() => () => set({ tool: null }), [set]);
  const named = (stroke: HeightStroke) => tools?.choices[stroke.tool] ?? stroke.tool;
  const keep = (what: string, next: readonly HeightStroke[]) => editing.keep(what, patchAt(at, next));
  const change = (row: Partial<HeightStroke>) => {
    const { size_mm, ...others } = row;
    if (size_mm !== undefined) setBench({ brush: { ...brush, sizeMm: size_mm } });
    set({ how: { ...how, ...others } });
  };
  return (
    <WorkCard title={part.heading}>
      <div className="stroke-kinds" role="group" aria-label={tools?.label}>
        {(Object.entries(tools?.choices ?? {}) as [Tool, string][]).map(([name, words]) => (
          <button key={name} type="button" className="stroke-kind" aria-pressed={tool === name} onClick={() => set({ tool: tool === name ? null : name })}>
            {words}
          </button>
        ))}
      </div>
      {tool ? (
        <>
          <p className="quiet-label">{tools?.hints[tool]} {onModel ? "Draw on the Plan or on the Model." : "Draw on the Plan."}</p>
          <RowFields
            part={part}
            row={{ tool, size_mm: brush.sizeMm, ...how } as HeightStroke}
            only={["size_mm", "amount_mm", "strength", "hardness", "profile", "mirror"]}
            onDrag={change}
            onKeep={(_, row) => change(row)}
          />
        </>
      ) : (
        <p className="quiet-label">{part.hint}</p>
      )}
      {strokes.length > 0 && (
        <Button size="sm" variant="outline-secondary" onClick={() => keep("Last stroke taken back", strokes.slice(0, -1))}>
          Take the last of {strokes.length} back
        </Button>
      )}
      {strokes.map((stroke, number) => (
        <section key={stroke.id} className="opening" aria-label={`${named(stroke)}, stroke ${number + 1}`}>
          <StepHead
            title={named(stroke)}
            on={stroke.on}
            onSwitch={(on) => keep(`${named(stroke)} ${on ? "on" : "off"}`, strokes.map((each, i) => (i === number ? { ...each, on } : each)))}
            onRemove={() => keep(`${named(stroke)} removed`, strokes.filter((_, i) => i !== number))}
            removeLabel={`Remove stroke ${number + 1}`}
          />
          <div className="field-pairs">
            <RowFields
              part={part}
              row={stroke}
              only={["amount_mm", "strength"]}
              onKeep={(what, row) => keep(`${named(stroke)}, ${what}`, strokes.map((each, i) => (i === number ? { ...each, ...row } : each)))}
            />
          </div>
        </section>
      ))}
    </WorkCard>
  );
}
