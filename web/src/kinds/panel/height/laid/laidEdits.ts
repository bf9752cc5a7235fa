import type { LaidRelief } from "../../../../api/client";
import type { Spot } from "../../../../state/benchStore";

const SMALLEST_MM = 0.2;

/** The list with one relief changed. */
export function withLaid(reliefs: readonly LaidRelief[], id: string, change: Partial<LaidRelief>): LaidRelief[] {
  return reliefs.map((each) => (each.id === id ? { ...each, ...change } : each));
}

/** The list with one relief a place earlier or later; a later one lies on those before it. */
export function movedLaid(reliefs: readonly LaidRelief[], id: string, by: -1 | 1): LaidRelief[] {
  const at = reliefs.findIndex((each) => each.id === id);
  const relief = reliefs[at];
  const to = at + by;
  if (!relief || to < 0 || to >= reliefs.length) return [...reliefs];
  const others = reliefs.filter((each) => each.id !== id);
  return [...others.slice(0, to), relief, ...others.slice(to)];
}

/** Where the middle of a relief lies on a piece of that size, mm, and its right end. */
export function placeOf({ x_share, y_share, width_mm, turn_deg }: LaidRelief, [width, depth]: readonly [number, number]): { middle: Spot; end: Spot } {
  const middle = { x: x_share * width, y: y_share * depth };
  const turn = (turn_deg * Math.PI) / 180;
  return { middle, end: { x: middle.x + (width_mm / 2) * Math.cos(turn), y: middle.y + (width_mm / 2) * Math.sin(turn) } };
}

/** What changes when its middle is moved to a place. */
export function laidAt(place: Spot, [width, depth]: readonly [number, number]): Pick<LaidRelief, "x_share" | "y_share"> {
  return { x_share: within(place.x / width), y_share: within(place.y / depth) };
}

/** What changes when its right end is moved to a place while its middle stays. */
export function reachingTo(end: Spot, middle: Spot): Pick<LaidRelief, "width_mm" | "turn_deg"> {
  const away = { x: end.x - middle.x, y: end.y - middle.y };
  return {
    width_mm: Math.min(3000, Math.max(SMALLEST_MM, Math.round(2 * Math.hypot(away.x, away.y) * 100) / 100)),
    turn_deg: Math.round((Math.atan2(away.y, away.x) * 1800) / Math.PI) / 10,
  };
}

function within(share: number): number {
  return Math.min(2, Math.max(-1, Math.round(share * 1e5) / 1e5));
}
