import type { LithophaneDocument } from "../api/client";
import type { HeightGrid, Sheet } from "../api/preview";
import type { Rgb, TransmissionLook } from "../state/previews";

/** How bright unlit material is beside white paper. */
export const UNLIT_WHITE = 0.82;
const STEPS = 1024;
export const LUMINANCE = [0.2126, 0.7152, 0.0722] as const;
const LIGHT_OF = Float64Array.from({ length: 256 }, (_, tone) => decoded(tone / 255));

export function transmissionLookOf({ glow, lamp }: Pick<LithophaneDocument, "glow" | "lamp">): TransmissionLook {
  const [lampColour, cast] = [linear(lamp.colour), linear(glow.material.cast)];
  const both = lampColour.map((part, i) => part * (cast[i] ?? 0));
  const largest = Math.max(...both, 1e-9);
  return {
    attenuation: glow.material.attenuation_per_mm,
    thinnest: glow.thinnest_mm,
    thickest: glow.thickest_mm,
    tint: [(both[0] ?? 0) / largest, (both[1] ?? 0) / largest, (both[2] ?? 0) / largest],
    power: lamp.power,
    ambient: lamp.ambient,
  };
}

/** Linear red, green and blue of `#rrggbb`, the largest 1. */
export function linear(colour: string): Rgb {
  const parts = [1, 3, 5].map((at) => decoded(parseInt(colour.slice(at, at + 2), 16) / 255));
  const largest = Math.max(...parts, 1e-6);
  return [(parts[0] ?? 0) / largest, (parts[1] ?? 0) / largest, (parts[2] ?? 0) / largest];
}

/** Luminance of an sRGB tone, both 0 to 1. */
export function decoded(tone: number): number {
  return tone <= 0.04045 ? tone / 12.92 : ((tone + 0.055) / 1.055) ** 2.4;
}

/** The sRGB tone of a luminance, both 0 to 1. */
export function encoded(light: number): number {
  const held = Math.min(1, Math.max(0, light));
  return held <= 0.0031308 ? 12.92 * held : 1.055 * held ** (1 / 2.4) - 0.055;
}

/** The tone that a wall shows when the thinnest wall shows white. */
export function shownTone(mm: number, { attenuation, thinnest }: TransmissionLook): number {
  return encoded(Math.exp(-attenuation * (mm - thinnest)));
}

/** Red, green and blue, linear, of what light that passes is multiplied by where filters give it a colour. */
export function filtered(lit: Uint8Array, at: number): [number, number, number] {
  const [red, green, blue] = [0, 1, 2].map((part) => LIGHT_OF[lit[3 * at + part] ?? 0] ?? 0) as [number, number, number];
  const bright = Math.max(1e-6, LUMINANCE[0] * red + LUMINANCE[1] * green + LUMINANCE[2] * blue);
  return [red / bright, green / bright, blue / bright];
}

function paintFiltered(mm: Float32Array, lit: Uint8Array, look: TransmissionLook): Uint8ClampedArray<ArrayBuffer> {
  const { tint, power, ambient, attenuation, thinnest } = look;
  const pixels = new Uint8ClampedArray(4 * mm.length);
  for (let i = 0; i < mm.length; i++) {
    const passed = power * Math.exp(-attenuation * ((mm[i] ?? 0) - thinnest));
    const colour = filtered(lit, i);
    for (let part = 0; part < 3; part++) {
      pixels[4 * i + part] = 255 * encoded(passed * (tint[part] ?? 0) * (colour[part] ?? 0) + ambient * UNLIT_WHITE);
    }
    pixels[4 * i + 3] = 255;
  }
  return pixels;
}

/** RGBA of walls with the lamp behind them, in the light of the room; `lit` is what filters give to white light. */
export function paintLit({ mm }: Sheet, look: TransmissionLook, lit?: Uint8Array): Uint8ClampedArray<ArrayBuffer> {
  if (lit) return paintFiltered(mm, lit, look);
  const { tint, power, ambient, attenuation, thinnest } = look;
  const room = ambient * UNLIT_WHITE;
  // Walls have few different thicknesses for the eye: colours are worked out once for each.
  const most = Math.max(look.thickest * 1.6, thinnest + 1);
  const colours = new Uint8ClampedArray(3 * (STEPS + 1));
  for (let step = 0; step <= STEPS; step++) {
    const passed = power * Math.exp(-attenuation * ((step / STEPS) * most - thinnest));
    for (let part = 0; part < 3; part++) colours[3 * step + part] = 255 * encoded(passed * (tint[part] ?? 0) + room);
  }
  const pixels = new Uint8ClampedArray(4 * mm.length);
  for (let i = 0; i < mm.length; i++) {
    const step = Math.min(STEPS, Math.max(0, Math.round(((mm[i] ?? 0) / most) * STEPS)));
    pixels[4 * i] = colours[3 * step] ?? 0;
    pixels[4 * i + 1] = colours[3 * step + 1] ?? 0;
    pixels[4 * i + 2] = colours[3 * step + 2] ?? 0;
    pixels[4 * i + 3] = 255;
  }
  return pixels;
}

/** Thicknesses as the straight rule would make them, borders as they are. */
export function straightSheet({ rows, columns, tones, heights, window }: HeightGrid, look: TransmissionLook): Sheet {
  const mm = Float32Array.from(heights, (height, i) =>
    window?.[i] ? look.thickest - ((tones[i] ?? 0) / 65_535) * (look.thickest - look.thinnest) : height,
  );
  return { rows, columns, mm };
}

const BORDER_GRAY = 236;
const TOO_BRIGHT = [196, 120, 28] as const;
const TOO_DARK = [44, 92, 150] as const;
const FULL_DIFFERENCE = 0.4;

/** RGBA of the picture that is wanted; borders are pale. */
export function paintWanted({ tones, window, wanted }: HeightGrid): Uint8ClampedArray<ArrayBuffer> {
  const pixels = new Uint8ClampedArray(4 * tones.length);
  for (let i = 0; i < tones.length; i++) {
    pixels.fill(window?.[i] ? (tones[i] ?? 0) >> 8 : BORDER_GRAY, 4 * i, 4 * i + 3);
    if (wanted && window?.[i]) pixels.set(wanted.subarray(3 * i, 3 * i + 3), 4 * i);
    pixels[4 * i + 3] = 255;
  }
  return pixels;
}

/** RGBA of how far what is lit is from what is wanted: ochre too bright, blue too dark, white the same. */
export function paintDifference({ tones, heights, window }: HeightGrid, look: TransmissionLook): Uint8ClampedArray<ArrayBuffer> {
  const pixels = new Uint8ClampedArray(4 * tones.length);
  for (let i = 0; i < tones.length; i++) {
    const over = window?.[i] ? shownTone(heights[i] ?? 0, look) - (tones[i] ?? 0) / 65_535 : 0;
    const share = Math.min(1, Math.abs(over) / FULL_DIFFERENCE);
    const towards = over > 0 ? TOO_BRIGHT : TOO_DARK;
    for (let part = 0; part < 3; part++) pixels[4 * i + part] = 250 + share * ((towards[part] ?? 0) - 250);
    pixels[4 * i + 3] = 255;
  }
  return pixels;
}

/** RGBA of thickness: thin pale, thick dark. */
export function paintThickness({ heights, walls = heights }: HeightGrid, look: TransmissionLook): Uint8ClampedArray<ArrayBuffer> {
  const pixels = new Uint8ClampedArray(4 * walls.length);
  for (let i = 0; i < walls.length; i++) {
    const share = Math.min(1, (walls[i] ?? 0) / look.thickest);
    pixels[4 * i] = 250 - 206 * share;
    pixels[4 * i + 1] = 246 - 157 * share;
    pixels[4 * i + 2] = 236 - 150 * share;
    pixels[4 * i + 3] = 255;
  }
  return pixels;
}
