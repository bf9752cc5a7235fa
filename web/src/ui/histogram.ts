import type { HeightGrid } from "../api/preview";

export const BINS = 64;

/** How many samples of material have a tone in each of `BINS` even classes from black to white. */
export function histogram({ tones, heights }: HeightGrid): Uint32Array {
  const counts = new Uint32Array(BINS);
  tones.forEach((tone, i) => {
    if (Number.isNaN(heights[i])) return;
    const bin = Math.min(BINS - 1, Math.floor((tone / 65_536) * BINS));
    counts[bin] = (counts[bin] ?? 0) + 1;
  });
  return counts;
}

/** The outline of a histogram in a box; the root keeps small classes visible beside large ones. */
export function histogramPath(counts: Uint32Array, width: number, height: number): string {
  const most = Math.sqrt(Math.max(1, ...counts));
  const step = width / counts.length;
  let path = `M0 ${height}`;
  counts.forEach((count, bin) => {
    const y = height - (Math.sqrt(count) / most) * height;
    path += `L${(bin * step).toFixed(1)} ${y.toFixed(1)}L${((bin + 1) * step).toFixed(1)} ${y.toFixed(1)}`;
  });
  return `${path}L${width} ${height}Z`;
}
