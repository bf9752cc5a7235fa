import { StrokeSurface } from "./StrokeSurface";
import type { BrushStroke } from "./strokes";
import type { ToolProps } from "./PictureTools";

/** Strokes that the picture follows at once. */
export function BrushTool({ kept, geometry, onDrag, onKeep }: ToolProps) {
  const strokes = kept.strokes as readonly BrushStroke[];
  return (
    <StrokeSurface
      label="Draw here"
      geometry={geometry}
      colour="#2a2d2e"
      onStroke={(stroke, done) => {
        const drawn = { strokes: [...strokes, stroke] };
        if (done) onKeep(`stroke ${drawn.strokes.length}`, drawn);
        else onDrag(drawn);
      }}
    />
  );
}
