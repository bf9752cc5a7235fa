import { fireEvent } from "@testing-library/react";
import type { PlanGeometry } from "../views/plan/geometry";

/** A Plan of 60 × 40 mm whose screen has four pixels for a millimetre, its upper left corner at the window's. */
export const PLAN: PlanGeometry = {
  scale: 4,
  size: [60, 40],
  toPx: ({ x, y }) => ({ x: 4 * x, y: 160 - 4 * y }),
  toMm: ({ clientX, clientY }) => ({ x: clientX / 4, y: 40 - clientY / 4 }),
};

/** Where a place of that Plan is on the screen. */
export function at(x: number, y: number) {
  const { x: clientX, y: clientY } = PLAN.toPx({ x, y });
  return { clientX, clientY, pointerId: 1, button: 0 };
}

/** Press on something, move by way of places of the Plan, and let go at the last. */
export function dragOver(element: Element, ...places: readonly [number, number][]): void {
  const [first = [0, 0], ...others] = places;
  fireEvent.pointerDown(element, at(...first));
  for (const place of others) fireEvent.pointerMove(element, at(...place));
  fireEvent.pointerUp(element, at(...(places.at(-1) ?? first)));
}
