import type { EditorProps } from "./editorProps";
import { TakeBack } from "./TakeBack";

/** The points that were set. */
export function PointsEditor({ op, onKeep }: EditorProps) {
  const points = op.points as readonly unknown[];
  return (
    <TakeBack
      count={points.length}
      what="point"
      onLast={() => onKeep("last point taken back", { points: points.slice(0, -1) })}
      onAll={() => onKeep("all points taken back", { points: [] })}
    />
  );
}
