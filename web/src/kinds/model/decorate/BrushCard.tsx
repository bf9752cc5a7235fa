import type { Stroke } from "../../../api/decorations";
import { Button } from "../../../ui/Button";
import { Choice } from "../../../ui/Choice";
import { LengthField } from "../../../ui/LengthField";
import { NumberField } from "../../../ui/NumberField";
import { WorkCard } from "../../../ui/WorkCard";
import type { ModelStationProps } from "../../common/stationProps";
import { useBrush } from "../../../state/brushStore";
import { useDecorStore } from "../../../state/decorStore";

const TOOLS: readonly { value: Stroke["tool"]; label: string }[] = [
  { value: "smooth", label: "Smooth" },
  { value: "raise", label: "Raise" },
  { value: "lower", label: "Lower" },
  { value: "flatten", label: "Flatten" },
];

/** A finish by eye: strokes on the decorations, each a step that can be taken back. */
export function BrushCard({ document, editing }: ModelStationProps) {
  const brush = useBrush();
  const painting = useDecorStore((state) => state.tool === "brush");
  const set = useDecorStore((state) => state.set);
  const { strokes } = document;
  return (
    <WorkCard title="Brush">
      <Choice label="What the brush does" value={brush.tool} options={TOOLS} onChange={(tool) => brush.set({ tool })} />
      <LengthField label="Radius" value={brush.radiusMm} lowest={0.05} highest={200} step={0.25} slider={{ from: 0.5, to: 15 }} onKeep={(radiusMm) => brush.set({ radiusMm })} />
      <NumberField label="Strength" unit="" share value={brush.strength} lowest={0.01} highest={1} step={0.05} slider={{ from: 0.05, to: 1 }} onKeep={(strength) => brush.set({ strength })} />
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
