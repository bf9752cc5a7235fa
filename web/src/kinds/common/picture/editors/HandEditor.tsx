import { BoxEditor } from "./BoxEditor";
import { BrushEditor } from "./BrushEditor";
import { CurveEditor } from "./CurveEditor";
import { CutOutEditor } from "./CutOutEditor";
import type { EditorProps } from "./editorProps";
import { FileEditor } from "./FileEditor";
import { LevelsEditor } from "./LevelsEditor";
import { PointsEditor } from "./PointsEditor";
import { SpotsEditor } from "./SpotsEditor";
import { ToneTable } from "./ToneTable";

/** What of an op is drawn by hand or has an editor of its own; nothing for most. */
export function HandEditor(props: EditorProps) {
  switch (props.op.kind) {
    case "crop":
      return <BoxEditor {...props} />;
    case "levels":
      return <LevelsEditor {...props} />;
    case "curve":
      return <CurveEditor {...props} />;
    case "reduce":
      return <ToneTable {...props} />;
    case "cut-out":
      return <CutOutEditor {...props} />;
    case "picture":
      return <FileEditor {...props} field="file" label="Picture" />;
    default:
      if (props.kind.tool === "brush") return <BrushEditor {...props} />;
      if (props.kind.tool === "points") return <PointsEditor {...props} />;
      return props.kind.tool === "spot" ? <SpotsEditor {...props} /> : null;
  }
}
