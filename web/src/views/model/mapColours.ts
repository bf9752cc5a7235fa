import type { MapHead } from "../../api/preview";

export type Colour = readonly [number, number, number];
type Stop = readonly [number, Colour];

const BRICK: Colour = [0.72, 0.24, 0.15];
const OCHRE: Colour = [0.86, 0.63, 0.22];
const PLASTER: Colour = [0.91, 0.87, 0.8];
const VERDIGRIS: Colour = [0.28, 0.56, 0.5];
const UNKNOWN: Colour = [0.5, 0.52, 0.53];

/** Leftovers from here on are seen in wood, mm. */
const LEFT_SEEN = 0.05;

/** Whole lines are plaster to verdigris, less than one brick, an awkward rest ochre. */
const LINE_STOPS: Stop[] = [
  [0, BRICK],
  [0.79, BRICK],
  ...[1, 2, 3, 4, 5].flatMap((count): Stop[] => [
    [count - 0.19, PLASTER],
    [count, VERDIGRIS],
    [count + 0.19, PLASTER],
    [count + 0.21, OCHRE],
    [count + 0.79, OCHRE],
  ]),
  [5.81, PLASTER],
  [6, VERDIGRIS],
];

/** The colours of a measure, at rising values; between them they run into each other. */
export function stopsOf({ kind, limit, most }: Pick<MapHead, "kind" | "limit" | "most">): Stop[] {
  const bound = limit ?? 1;
  switch (kind) {
    case "thickness":
    case "thickness-ray":
      return [
        [0, BRICK],
        [bound, BRICK],
        [1.01 * bound, OCHRE],
        [2 * bound, PLASTER],
        [6 * bound, VERDIGRIS],
      ];
    case "deviation": {
      const worst = Math.max(bound, most);
      return [
        [0, VERDIGRIS],
        [bound / 2, PLASTER],
        [bound, OCHRE],
        [1.001 * worst, BRICK],
      ];
    }
    case "left":
    case "reach":
      return [
        [0, PLASTER],
        [LEFT_SEEN, VERDIGRIS],
        [5 * LEFT_SEEN, OCHRE],
        [Math.max(10 * LEFT_SEEN, Math.min(most, 20 * LEFT_SEEN)), BRICK],
      ];
    case "lines":
      return LINE_STOPS;
    case "scars":
      return [
        [0, PLASTER],
        [0.5, OCHRE],
        [1, BRICK],
      ];
    case "draft":
      return [
        [-90, BRICK],
        [-0.01, BRICK],
        [0, OCHRE],
        [5, PLASTER],
        [90, VERDIGRIS],
      ];
    default:
      return [
        [-90, VERDIGRIS],
        [0, PLASTER],
        [30, PLASTER],
        [45, OCHRE],
        [46, BRICK],
        [90, BRICK],
      ];
  }
}

/** The colour of one value. */
export function colourOf(stops: readonly Stop[], value: number): Colour {
  if (Number.isNaN(value)) return UNKNOWN;
  const after = stops.findIndex(([at]) => at >= value);
  const high = stops[after < 0 ? stops.length - 1 : after];
  const low = stops[after < 0 ? stops.length - 1 : Math.max(0, after - 1)];
  if (!high || !low) return UNKNOWN;
  const part = high[0] > low[0] ? (value - low[0]) / (high[0] - low[0]) : 0;
  const mix = (channel: 0 | 1 | 2) => low[1][channel] + (high[1][channel] - low[1][channel]) * Math.min(1, Math.max(0, part));
  return [mix(0), mix(1), mix(2)];
}

/** Red, green and blue of every vertex. */
export function mapColours(head: MapHead, values: Float32Array): Float32Array {
  const stops = stopsOf(head);
  const colours = new Float32Array(3 * values.length);
  values.forEach((value, at) => colours.set(colourOf(stops, value), 3 * at));
  return colours;
}
