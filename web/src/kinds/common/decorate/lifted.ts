/** Places that are one corner of the skin, however their last digits differ. */
const SAME_SHARE = 1e-5;

/**
 * Corners of faces, nine numbers a face, moved off the skin by `lift` along the mean normal of the faces that meet in
 * them, so that no gap opens between faces that look another way.
 */
export function liftedCorners(corners: Float32Array, lift: number): Float32Array {
  const count = corners.length / 3;
  const at = (corner: number, axis: number) => corners[3 * corner + axis] ?? 0;
  const scale = SAME_SHARE * Math.max(1e-6, ...[0, 1, 2].map((axis) => spread(corners, axis)));
  const names = Array.from({ length: count }, (_, corner) => [0, 1, 2].map((axis) => Math.round(at(corner, axis) / scale)).join());
  const sums = new Map<string, [number, number, number]>();
  for (let face = 0; face < count / 3; face++) {
    const [a, b, c] = [3 * face, 3 * face + 1, 3 * face + 2];
    const one = [0, 1, 2].map((axis) => at(b, axis) - at(a, axis));
    const other = [0, 1, 2].map((axis) => at(c, axis) - at(a, axis));
    const normal = cross(one, other);
    for (const corner of [a, b, c]) {
      const name = names[corner] ?? "";
      const sum = sums.get(name) ?? [0, 0, 0];
      sums.set(name, [sum[0] + normal[0], sum[1] + normal[1], sum[2] + normal[2]]);
    }
  }
  const lifted = new Float32Array(corners.length);
  for (let corner = 0; corner < count; corner++) {
    const [x, y, z] = sums.get(names[corner] ?? "") ?? [0, 0, 0];
    const length = Math.hypot(x, y, z) || 1;
    [x, y, z].forEach((part, axis) => (lifted[3 * corner + axis] = at(corner, axis) + (part / length) * lift));
  }
  return lifted;
}

function cross(one: readonly number[], other: readonly number[]): [number, number, number] {
  const [a = 0, b = 0, c = 0] = one;
  const [d = 0, e = 0, f = 0] = other;
  return [b * f - c * e, c * d - a * f, a * e - b * d];
}

function spread(values: Float32Array, axis: number): number {
  let [low, high] = [Infinity, -Infinity];
  for (let i = axis; i < values.length; i += 3) {
    low = Math.min(low, values[i] ?? 0);
    high = Math.max(high, values[i] ?? 0);
  }
  return high - low;
}
