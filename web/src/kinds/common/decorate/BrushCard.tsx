import { fieldNamed } from "../../../api/parts";
import { Button } from "../../../ui/Button";
import { WorkCard } from "../../../ui/WorkCard";
import { FieldControl } from "../fields/FieldControl";
import { RowFields } from "../fields/RowFields";
import type { WorkedStationProps } from "../stationProps";
import { howOver, useBrush, type BrushHow } from "../../../state/brushStore";
import { useDecorStore, type Tool } from "../../../state/decorStore";
import { useDecorationParts } from "./useDecorationParts";

/** Brushes that a typed height tells all of. */
const BY_AMOUNT: ReadonlySet<string> = new Set(["raise", "lower", "carve"]);

/** The part of the model that strokes keep to: encircled, or painted. */
function BrushRegion({ how, choose }: { how: BrushHow; choose: (part: Partial<BrushHow>) => void }) {
  const tool = useDecorStore((state) => state.tool);
  const set = useDecorStore((state) => state.set);
  const take = (wanted: Tool, words: string) => (
    <Button size="sm" variant={tool === wanted ? "primary" : "outline-secondary"} aria-pressed={tool === wanted} onClick={() => set({ tool: tool === wanted ? null : wanted, fresh: null })}>
      {words}
    </Button>
  );
  return (
    <div className="d-flex flex-wrap gap-2">
      {take("fence", how.region.kind === "lasso" ? "Encircle anew" : "Encircle it")}
      {take("paint", how.region.kind === "brush" ? "Paint more" : "Paint it")}
      {how.region.kind !== "free" && (
        <Button size="sm" variant="outline-secondary" onClick={() => choose({ region: { ...how.region, kind: "free", places: [] } })}>
          Forget it
        </Button>
      )}
    </div>
  );
}

/** A finish by eye: strokes on the model or its decorations, each a step that can be taken back. */
export function BrushCard({ document, editing }: WorkedStationProps) {
  const { how: chosen, choose } = useBrush();
  const part = useDecorationParts().stroke;
  const painting = useDecorStore((state) => state.tool === "brush");
  const set = useDecorStore((state) => state.set);
  const { strokes, decorations } = document;
  const how = howOver(chosen, decorations);
  const fields = (...only: (keyof BrushHow)[]) => <RowFields part={part} row={how} only={only} onKeep={(_, change) => choose(change)} />;
  return (
    <WorkCard title="Brush">
      {fields("tool", "profile")}
      <FieldControl
        field={fieldNamed(part, "within")}
        value={how.within}
        offered={(value) => value !== "decorations" || decorations.length > 0}
        onKeep={(within) => {
          choose({ within: within as BrushHow["within"] });
          if (within === "region" && how.region.kind === "free") set({ tool: "fence", fresh: null });
        }}
      />
      {how.within === "region" && <BrushRegion how={how} choose={choose} />}
      {fields("most_deg", "radius_mm", "amount_mm", ...(how.amount_mm > 0 && BY_AMOUNT.has(how.tool) ? [] : (["strength"] as const)), "mirror")}
      <div className="d-flex flex-wrap gap-2 align-items-center">
        <Button size="sm" disabled={how.within === "region" && how.region.kind === "free"} variant={painting ? "primary" : "outline-secondary"} aria-pressed={painting} onClick={() => set({ tool: painting ? null : "brush", fresh: null })}>
          {painting ? "Brush in hand" : "Take the brush"}
        </Button>
        {strokes.length > 0 && (
          <Button size="sm" variant="outline-secondary" onClick={() => editing.keep("Last stroke taken back", { strokes: strokes.slice(0, -1) })}>
            Take the last of {strokes.length} back
          </Button>
        )}
      </div>
      <p className="quiet-label">{fieldNamed(part, "within").hints[how.within]}</p>
    </WorkCard>
  );
}
