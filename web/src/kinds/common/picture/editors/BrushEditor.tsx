import type { BrushStroke } from "../tools/strokes";
import { BrushFields } from "./BrushFields";
import type { EditorProps } from "./editorProps";
import { TakeBack } from "./TakeBack";

/** Brush size and hardness, and the strokes so far. */
export function BrushEditor({ op, onKeep }: EditorProps) {
  const strokes = op.strokes as readonly BrushStroke[];
  return (
    <>
      <BrushFields />
      <TakeBack
        count={strokes.length}
        what="stroke"
        onLast={() => onKeep("last stroke taken back", { strokes: strokes.slice(0, -1) })}
        onAll={() => onKeep("all strokes taken back", { strokes: [] })}
      />
    </>
  );
}
