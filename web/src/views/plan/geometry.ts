import type { Spot } from "../../state/benchStore";

/** A mouse or pointer event on something that is drawn over the plan. */
export interface PointedAt {
  clientX: number;
  clientY: number;
  currentTarget: Element;
}

/** How the plan lies on the screen, for what is drawn over it. */
export interface PlanGeometry {
  /** Screen pixels for a millimetre. */
  scale: number;
  /** Width and depth of what is shown, mm. */
  size: readonly [number, number];
  toPx: (spot: Spot) => Spot;
  toMm: (event: PointedAt) => Spot;
}
