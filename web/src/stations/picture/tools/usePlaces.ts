import { useBenchStore, type Spot } from "../../../bench/benchStore";
import { inverse, mapped } from "../../../views/plan/matrix";
import type { PlanGeometry } from "../../../views/plan/geometry";

/** Places in shares of the source, as documents keep them, against millimetres on the Plan. */
export function usePlaces({ size: [width, depth] }: PlanGeometry): { toSource: (spot: Spot) => Spot; toPlan: (share: Spot) => Spot } {
  const matrix = useBenchStore((state) => state.plan?.head.from_source);
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
