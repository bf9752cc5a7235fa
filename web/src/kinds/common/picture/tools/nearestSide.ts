import type { Spot } from "../../../../state/benchStore";

/** The side of a run of points that a spot is nearest to: the number of the point before it, and how far away it is. */
export function nearestSide(points: readonly Spot[], spot: Spot, closed: boolean): { after: number; away: number } | null {
  let best: { after: number; away: number } | null = null;
  const count = closed && points.length > 2 ? points.length : points.length - 1;
  for (let after = 0; after < count; after++) {
    const from = points[after];
    const to = points[(after + 1) % points.length];
    if (!from || !to) continue;
    const away = distance(from, to, spot);
    if (!best || away < best.away) best = { after, away };
  }
  return best;
}

function distance(from: Spot, to: Spot, spot: Spot): number {
  const [dx, dy] = [to.x - from.x, to.y - from.y];
  const along = ((spot.x - from.x) * dx + (spot.y - from.y) * dy) / Math.max(dx * dx + dy * dy, 1e-12);
  const share = Math.min(1, Math.max(0, along));
  return Math.hypot(spot.x - from.x - share * dx, spot.y - from.y - share * dy);
}
