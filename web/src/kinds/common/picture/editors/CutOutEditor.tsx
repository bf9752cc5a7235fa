import { useBenchStore } from "../../../../state/benchStore";
import { Button } from "../../../../ui/Button";
import { Choice } from "../../../../ui/Choice";
import type { BrushStroke } from "../tools/strokes";
import { BrushFields } from "./BrushFields";
import type { EditorProps } from "./editorProps";
import { FileEditor } from "./FileEditor";
import { TakeBack } from "./TakeBack";

const FIRST_BOX = { left: 0.08, bottom: 0.08, right: 0.92, top: 0.92 };
const SIDES = [
  { value: "inside", label: "Stays" },
  { value: "outside", label: "Goes" },
] as const;

/** A mask file, or a box and strokes that say what stays and what goes. */
export function CutOutEditor(props: EditorProps) {
  const { op, onKeep } = props;
  const brush = useBenchStore((state) => state.brush);
  const set = useBenchStore((state) => state.set);
  if (op.by === "mask") {
    return (
      <>
        <FileEditor {...props} field="mask" label="Mask file" />
        <p className="quiet-label">White stays, black goes. A mask of another size is stretched to fit.</p>
      </>
    );
  }
  if (op.by !== "marks") return null;
  const strokes = op.strokes as readonly BrushStroke[];
  return (
    <>
      <Button
        size="sm"
        variant="outline-secondary"
        onClick={() => onKeep(op.box ? "box removed" : "box added", { box: op.box ? null : FIRST_BOX })}
      >
        {op.box ? "Remove the box" : "Draw a box around it"}
      </Button>
      <Choice
        label="What the next stroke says"
        value={brush.inside ? "inside" : "outside"}
        options={SIDES}
        onChange={(side) => set({ brush: { ...brush, inside: side === "inside" } })}
      />
      <BrushFields />
      <TakeBack
        count={strokes.length}
        what="mark"
        onLast={() => onKeep("last mark taken back", { strokes: strokes.slice(0, -1) })}
        onAll={() => onKeep("all marks taken back", { strokes: [] })}
      />
    </>
  );
}
