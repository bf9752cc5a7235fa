import type { HeightGrid, ThinMap } from "../../api/preview";
import type { Light } from "../../state/benchStore";

/** RGBA of the prepared picture; blanks are transparent. */
export function paintTones({ tones, heights }: HeightGrid): Uint8ClampedArray<ArrayBuffer> {
  const pixels = new Uint8ClampedArray(tones.length * 4);
  for (let i = 0; i < tones.length; i++) {
    const gray = (tones[i] ?? 0) >> 8;
    pixels[4 * i] = pixels[4 * i + 1] = pixels[4 * i + 2] = gray;
    pixels[4 * i + 3] = Number.isNaN(heights[i]) ? 0 : 255;
  }
  return pixels;
}

const PLASTER = [238, 229, 212] as const;
const AMBIENT = 0.3;

/** RGBA of the heights as plaster under the lamp, without cast shadows. */
export function paintRelief(
  { rows, columns, heights }: HeightGrid,
  pitch: number,
  { fromDeg, aboveDeg }: Light,
): Uint8ClampedArray<ArrayBuffer> {
  const pixels = new Uint8ClampedArray(rows * columns * 4);
  const from = (fromDeg * Math.PI) / 180;
  const above = (aboveDeg * Math.PI) / 180;
  const lx = Math.cos(above) * Math.cos(from);
  const ly = Math.cos(above) * Math.sin(from);
  const lz = Math.sin(above);
  for (let row = 0; row < rows; row++) {
    const up = Math.max(0, row - 1) * columns;
    const down = Math.min(rows - 1, row + 1) * columns;
    const tall = (Math.min(rows - 1, row + 1) - Math.max(0, row - 1)) * pitch;
    for (let column = 0; column < columns; column++) {
      const i = row * columns + column;
      const here = heights[i] ?? Number.NaN;
      if (Number.isNaN(here)) continue;
      const left = Math.max(0, column - 1);
      const right = Math.min(columns - 1, column + 1);
      const dx = slope(heights[row * columns + left], heights[row * columns + right], (right - left) * pitch);
      const dy = slope(heights[down + column], heights[up + column], tall);
      const lit = Math.max(0, (lz - dx * lx - dy * ly) / Math.sqrt(1 + dx * dx + dy * dy));
      const shade = Math.sqrt(AMBIENT * 0.6 + (1 - AMBIENT * 0.6) * Math.min(1, lit * 1.15));
      pixels[4 * i] = PLASTER[0] * shade;
      pixels[4 * i + 1] = PLASTER[1] * shade;
      pixels[4 * i + 2] = PLASTER[2] * shade;
      pixels[4 * i + 3] = 255;
    }
  }
  return pixels;
}

function slope(low: number | undefined, high: number | undefined, distance: number): number {
  const rise = (high ?? 0) - (low ?? 0);
  return Number.isNaN(rise) ? 0 : rise / distance;
}

const THIN_STROKE = [190, 50, 20] as const;
const THIN_GAP = [60, 60, 190] as const;
const PALEST = 70;

/** RGBA of places that are too thin: strokes red, gaps blue, the fainter the nearer to wide enough. */
export function paintThin({ strokes, gaps }: ThinMap): Uint8ClampedArray<ArrayBuffer> {
  const pixels = new Uint8ClampedArray(strokes.length * 4);
  strokes.forEach((stroke, i) => {
    const width = stroke || (gaps[i] ?? 0);
    if (width) pixels.set([...(stroke ? THIN_STROKE : THIN_GAP), 255 - (width / 255) * (255 - PALEST)], 4 * i);
  });
  return pixels;
}
