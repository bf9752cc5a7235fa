import { Button } from "../../../ui/Button";
import { useDecorStore } from "../../../state/decorStore";
import type { DecorationFieldsProps } from "./DecorationFields";

/** Which way a texture points that follows the skin all over: upwards, or as strokes on the model say. */
export function GrainFields({ decoration, onKeep }: DecorationFieldsProps) {
  const tool = useDecorStore((state) => state.tool);
  const set = useDecorStore((state) => state.set);
  const { grain } = decoration;
  const drawing = tool === "grain";
  return (
    <div>
      <div className="d-flex flex-wrap gap-2">
        <Button size="sm" variant={drawing ? "primary" : "outline-secondary"} aria-pressed={drawing} onClick={() => set({ tool: drawing ? null : "grain", fresh: null })}>
          Draw directions
        </Button>
        {grain.length > 0 && (
          <Button size="sm" variant="outline-secondary" onClick={() => onKeep("directions forgotten", { grain: [] })}>
            Forget {grain.length === 1 ? "the direction" : `${grain.length} directions`}
          </Button>
        )}
      </div>
      <p className="quiet-label mt-1">
        {drawing
          ? "Draw on the model the way the texture is to point; between strokes it turns softly."
          : grain.length
            ? "Rows follow your strokes."
            : "Rows follow the skin upwards, without a seam; the width is that of one tile."}
      </p>
    </div>
  );
}
