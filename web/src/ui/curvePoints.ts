export type CurvePoint = readonly [number, number];
export type CurvePoints = readonly CurvePoint[];

const APART = 0.01;
const OUTSIDE = 0.12;

/** The curve with a further point, and that point's place in it. */
export function withPoint(points: CurvePoints, point: CurvePoint): { points: CurvePoints; at: number } {
  const at = points.findIndex(([x]) => x > point[0]);
  const place = at < 0 ? points.length : at;
  return { points: [...points.slice(0, place), point, ...points.slice(place)], at: place };
}

/** One point moved: between its neighbours, the ends upright only. */
export function withMoved(points: CurvePoints, at: number, [x, y]: CurvePoint): CurvePoints {
  const low = (points[at - 1]?.[0] ?? 0) + (at > 0 ? APART : 0);
  const high = (points[at + 1]?.[0] ?? 1) - (at < points.length - 1 ? APART : 0);
  const end = at === 0 || at === points.length - 1;
  const across = end ? (points[at]?.[0] ?? x) : clamp(x, low, high);
  return points.map((point, i) => (i === at ? [rounded(across), rounded(clamp(y, 0, 1))] : point));
}

/** Whether a point was dragged out of the box, which removes it; the ends stay. */
export function isDraggedOut(points: CurvePoints, at: number, [x, y]: CurvePoint): boolean {
  const inner = at > 0 && at < points.length - 1;
  return inner && (x < -OUTSIDE || x > 1 + OUTSIDE || y < -OUTSIDE || y > 1 + OUTSIDE);
}

function clamp(value: number, low: number, high: number): number {
  return Math.min(high, Math.max(low, value));
}

function rounded(value: number): number {
  return Math.round(value * 1000) / 1000;
}
