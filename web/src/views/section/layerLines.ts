import type { Layer } from "../../api/printing";

/** Places further apart than this many lines do not follow each other. */
const APART = 3;

/** A line that is drawn along a wall, x and y in turn. */
export interface Drawn {
  /** A printed line, a rest that stays hollow, or a wall too thin for any. */
  kind: "line" | "hollow" | "thin";
  points: number[];
  /** How wide it is, mm; the widest of what it runs through. */
  wide: number;
}

/** What is laid into the walls of a layer: lines along each outline, and what stays hollow between them. */
export function wallLines({ head, places, inward, wide, lines, rest, runs }: Layer): Drawn[] {
  const line = head.line_mm;
  const drawn: Drawn[] = [];
  const at = (place: number, deep: number): [number, number] => [
    (places[2 * place] ?? 0) + (inward[2 * place] ?? 0) * deep,
    (places[2 * place + 1] ?? 0) + (inward[2 * place + 1] ?? 0) * deep,
  ];
  const alike = (one: number, other: number) => lines[one] === lines[other] && (rest[one] ?? 0) > 0 === (rest[other] ?? 0) > 0;
  let first = 0;
  while (first < wide.length) {
    const count = lines[first] ?? 0;
    const hollow = rest[first] ?? 0;
    let last = first;
    while (last + 1 < wide.length && follows(places, runs, last, line) && alike(first, last + 1)) last += 1;
    const part = Array.from({ length: last - first + 1 }, (_, number) => first + number);
    const along = (deep: (place: number) => number) => part.flatMap((place) => at(place, deep(place)));
    const middle = (place: number) => (wide[place] ?? 0) / 2;
    const loops = (many: number) => {
      for (let loop = 0; loop < many; loop++) drawn.push({ kind: "line", points: along(() => (loop + 0.5) * line), wide: line });
    };
    if (!Number.isFinite(wide[first] ?? Infinity)) loops(head.walls);
    else if (count === 0) drawn.push({ kind: "thin", points: along(middle), wide: part.reduce((most, place) => Math.max(most, wide[place] ?? 0), 0) });
    else {
      if (hollow > 0) drawn.push({ kind: "hollow", points: along(middle), wide: (hollow + (count % 2)) * line });
      loops(Math.floor(count / 2));
      if (count % 2) drawn.push({ kind: "line", points: along(middle), wide: line });
    }
    first = last + 1;
  }
  return drawn;
}

function follows(places: Float32Array, runs: Uint32Array, place: number, line: number): boolean {
  if (runs[place] !== runs[place + 1]) return false;
  const x = (places[2 * place + 2] ?? 0) - (places[2 * place] ?? 0);
  const y = (places[2 * place + 3] ?? 0) - (places[2 * place + 1] ?? 0);
  return Math.hypot(x, y) < APART * line;
}

/** The wall at the place nearest to one over the plate, in lines; null where none is near. */
export function wallAt({ places, wide, lines, rest }: Layer, x: number, y: number, withinMm: number): { mm: number; count: number; rest: number } | null {
  let nearest = -1;
  let far = withinMm * withinMm;
  for (let place = 0; place < wide.length; place++) {
    const [dx, dy] = [(places[2 * place] ?? 0) - x, (places[2 * place + 1] ?? 0) - y];
    if (dx * dx + dy * dy < far) {
      far = dx * dx + dy * dy;
      nearest = place;
    }
  }
  const mm = wide[nearest];
  if (mm === undefined || !Number.isFinite(mm)) return null;
  return { mm, count: lines[nearest] ?? 0, rest: rest[nearest] ?? 0 };
}
