import type { PlanGeometry } from "../../../views/plan/geometry";
import type { DepthWork } from "./depthHome";
import { OrderMarks, StrokeMarks, UnsureOverPlan } from "./DepthTools";

interface Props extends Omit<DepthWork, "editing"> {
  geometry: PlanGeometry;
}

/** What the Plan shows of a depth: where it is unsure, strokes, parts in order. */
export function DepthMarks(props: Props) {
  return (
    <>
      <UnsureOverPlan {...props} />
      <StrokeMarks {...props} />
      <OrderMarks {...props} />
    </>
  );
}
