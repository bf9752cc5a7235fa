import type { EditorProps } from "./editorProps";
import { TakeBack } from "./TakeBack";

/** The places that were clicked. */
export function SpotsEditor({ op, onKeep }: EditorProps) {
  const spots = op.spots as readonly unknown[];
  return (
    <TakeBack
      count={spots.length}
      what="spot"
      onLast={() => onKeep("last spot taken back", { spots: spots.slice(0, -1) })}
      onAll={() => onKeep("all spots taken back", { spots: [] })}
    />
  );
}
