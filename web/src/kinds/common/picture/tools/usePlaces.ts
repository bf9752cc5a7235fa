import { type Spot } from "../../../../state/benchStore";
import { inverse, mapped } from "../../../../api/matrix";
import type { PlanGeometry } from "../../../../views/plan/geometry";
import { usePlan } from "../../../../state/previews";

/** Places in shares of the source, as documents keep them, against millimetres on the Plan. */
export function usePlaces({ size: [width, depth] }: PlanGeometry): { toSource: (spot: Spot) => Spot; toPlan: (share: Spot) => Spot } {
  const matrix = usePlan()?.head.from_source;
  const same = (spot: Spot) => spot;
  if (!matrix) return { toSource: same, toPlan: same };
  const back = inverse(matrix);
  return {
    toSource: (spot) => mapped(back, { x: spot.x / width, y: spot.y / depth }),
    toPlan: (share) => {
      const spot = mapped(matrix, share);
      return { x: spot.x * width, y: spot.y * depth };
    },
  };
}
