import { Button } from "../../../ui/Button";
import { WorkCard } from "../../../ui/WorkCard";
import { RowFields } from "../fields/RowFields";
import type { WorkedStationProps } from "../stationProps";
import { useBrush } from "../../../state/brushStore";
import { useDecorStore } from "../../../state/decorStore";
import { useDecorationParts } from "./useDecorationParts";

/** A finish by eye: strokes on the decorations, each a step that can be taken back. */
export function BrushCard({ document, editing }: WorkedStationProps) {
  const brush = useBrush();
  const painting = useDecorStore((state) => state.tool === "brush");
  const set = useDecorStore((state) => state.set);
  const { strokes } = document;
  return (
    <WorkCard title="Brush">
      <RowFields
        part={useDecorationParts().stroke}
        row={{ tool: brush.tool, radius_mm: brush.radiusMm, strength: brush.strength }}
        only={["tool", "radius_mm", "strength"]}
        onKeep={(_, { tool, radius_mm, strength }) =>
          brush.set({ tool: tool ?? brush.tool, radiusMm: radius_mm ?? brush.radiusMm, strength: strength ?? brush.strength })
        }
      />
      <div className="d-flex flex-wrap gap-2 align-items-center">
        <Button size="sm" variant={painting ? "primary" : "outline-secondary"} aria-pressed={painting} onClick={() => set({ tool: painting ? null : "brush", fresh: null })}>
          {painting ? "Brush in hand" : "Take the brush"}
        </Button>
        {strokes.length > 0 && (
          <Button size="sm" variant="outline-secondary" onClick={() => editing.keep("Last stroke taken back", { strokes: strokes.slice(0, -1) })}>
            Take the last of {strokes.length} back
          </Button>
        )}
      </div>
      <p className="quiet-label">Works within decorations only; what is beside them stays as it came.</p>
    </WorkCard>
  );
}
