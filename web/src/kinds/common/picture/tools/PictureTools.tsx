import type { PictureOp } from "../../../../api/ops";
import { useBenchStore } from "../../../../state/benchStore";
import type { PlanGeometry } from "../../../../views/plan/geometry";
import type { OpsEditing } from "../../ops/useOps";
import { BrushTool } from "./BrushTool";
import { CornersTool } from "./CornersTool";
import { CropTool } from "./CropTool";
import { MarksTool } from "./MarksTool";
import { PlaceTool } from "./PlaceTool";
import { PointsTool } from "./PointsTool";
import { SpotTool } from "./SpotTool";

export interface ToolProps {
  /** With what is being dragged. */
  op: PictureOp;
  /** Without it. */
  kept: PictureOp;
  geometry: PlanGeometry;
  onDrag: (parameters: Record<string, unknown>) => void;
  onKeep: (label: string, parameters: Record<string, unknown>) => void;
}

/** What the op that is worked on draws on the Plan. */
export function PictureTools({ editing, geometry }: { editing: OpsEditing; geometry: PlanGeometry }) {
  const opId = useBenchStore((state) => state.opId);
  const look = useBenchStore((state) => state.look);
  const op = editing.shown.find((each) => each.id === opId);
  if (!op?.on) return null;
  const props: ToolProps = {
    op,
    kept: editing.ops.find((each) => each.id === opId) ?? op,
    geometry,
    onDrag: (parameters) => editing.drag(op.id, parameters),
    onKeep: (label, parameters) => editing.keep(op.id, label, parameters),
  };
  switch (editing.kindOf(op)?.tool) {
    case "box":
      return look === "in" ? <CropTool {...props} /> : null;
    case "corners":
      return look === "in" ? <CornersTool {...props} /> : null;
    case "brush":
      return <BrushTool key={op.id} {...props} />;
    case "marks":
      return op.by === "marks" ? <MarksTool key={op.id} {...props} /> : null;
    case "spot":
      return <SpotTool {...props} />;
    case "place":
      return <PlaceTool {...props} />;
    case "points":
      return <PointsTool key={op.id} {...props} />;
    default:
      return null;
  }
}
