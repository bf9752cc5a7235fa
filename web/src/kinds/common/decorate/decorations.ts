import type { BrushHow } from "../../../state/brushStore";
import type { Decoration, Stroke, Triple } from "../../../api/decorations";
import type { PartSchema } from "../../../api/parts";
import { newRow } from "../fields/newRow";

type Art = Decoration["art"];

/** A decoration before it is laid. */
export function freshDecoration(part: PartSchema, art: Art, widthMm: number, up: Triple): Decoration {
  return newRow(part, { art, at: [0, 0, 0], up: [...up], width_mm: widthMm }) as unknown as Decoration;
}

/** Which way is up on a model: models that stand are looked at from in front, others from above. */
export function upOf(standing: boolean): [number, number, number] {
  return standing ? [0, 0, 1] : [0, 1, 0];
}

/** The list with one decoration changed. */
export function withDecoration(list: readonly Decoration[], id: string, change: Partial<Decoration>): Decoration[] {
  return list.map((each) => (each.id === id ? { ...each, ...change } : each));
}

/** The list with one decoration a place earlier or later; later ones come on top. */
export function withDecorationMoved(list: readonly Decoration[], id: string, by: -1 | 1): Decoration[] {
  const at = list.findIndex((each) => each.id === id);
  const to = at + by;
  const moved = list[at];
  if (!moved || to < 0 || to >= list.length) return [...list];
  const others = list.filter((each) => each.id !== id);
  return [...others.slice(0, to), moved, ...others.slice(to)];
}

export const dot = (a: Triple, b: Triple) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const minus = (a: Triple, b: Triple): Triple => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const plus = (a: Triple, b: Triple): Triple => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];

/** Width and turn after a corner was taken from one place to another, seen from the middle along the skin. */
export function heldByCorner(
  { width_mm, turn_deg }: Pick<Decoration, "width_mm" | "turn_deg">,
  frame: { at: Triple; right: Triple; up: Triple },
  from: Triple,
  to: Triple,
  [narrowest, widest]: readonly [number, number],
): Pick<Decoration, "width_mm" | "turn_deg"> {
  const flat = (place: Triple) => [dot(minus(place, frame.at), frame.right), dot(minus(place, frame.at), frame.up)] as const;
  const [ax, ay] = flat(from);
  const [bx, by] = flat(to);
  const grown = Math.hypot(bx, by) / Math.max(Math.hypot(ax, ay), 1e-6);
  const turned = ((Math.atan2(by, bx) - Math.atan2(ay, ax)) * 180) / Math.PI;
  const turn = ((((turn_deg + turned + 180) % 360) + 360) % 360) - 180;
  return { width_mm: rounded(Math.min(widest, Math.max(narrowest, width_mm * grown)), 100), turn_deg: rounded(turn, 10) };
}

/** Places of a trail that are far enough apart to say something new. */
export function thinned(trail: readonly Triple[], leastMm: number, most: number): Triple[] {
  return thinnedAt(trail, leastMm, most).flatMap((at) => trail.slice(at, at + 1));
}

/** Which of the places of a trail those are. */
export function thinnedAt(trail: readonly Triple[], leastMm: number, most: number): number[] {
  const kept: number[] = [];
  trail.forEach((place, at) => {
    const last = trail[kept.at(-1) ?? -1];
    if (!last || Math.hypot(...minus(place, last)) >= leastMm) kept.push(at);
  });
  // What is drawn for long keeps its end: places are further apart then.
  const share = Math.max(1, (kept.length - 1) / (most - 1));
  return Array.from({ length: Math.min(kept.length, most) }, (_, at) => kept[Math.round(at * share)] ?? 0);
}

/** What a decoration is, in a few words. */
export function wordsOf({ effect, depth_mm, copies, tiled }: Decoration): string {
  const what = { raise: `${depth_mm} mm raised`, sink: `${depth_mm} mm sunk`, both: `${depth_mm} mm both ways`, colour: "colour only", picture: "picture only" }[effect];
  const many = copies.kind === "grid" ? copies.count * copies.rows : copies.count;
  const repeated = tiled ? ", all over" : copies.kind === "once" ? "" : `, ${many} times`;
  return what + repeated;
}

/** A stroke through places, with the pressure at each where a pen told it. */
export function freshStroke(how: BrushHow, places: readonly Triple[], pressures: readonly number[] = []): Stroke {
  return {
    ...how,
    id: globalThis.crypto.randomUUID().slice(0, 8),
    places: places.map((place) => [...place] as [number, number, number]),
    pressures: pressures.some((pressure) => pressure !== 1) ? [...pressures] : [],
  };
}

function rounded(value: number, parts: number): number {
  return Math.round(value * parts) / parts;
}
