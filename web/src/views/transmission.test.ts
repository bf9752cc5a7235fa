import { describe, expect, it } from "vitest";
import type { HeightGrid } from "../api/preview";
import { decoded, encoded, transmissionLookOf, linear, paintDifference, paintLit, paintThickness, paintWanted, shownTone, straightSheet } from "./transmission";
import type { TransmissionLook } from "../state/previews";

const LOOK: TransmissionLook = { attenuation: 1, thinnest: 1, thickest: 4, tint: [1, 0.5, 0.25], power: 1, ambient: 0 };

/** A sheet of one row: border, white, half, black. */
const GRID: HeightGrid = {
  rows: 1,
  columns: 4,
  heights: Float32Array.from([3, 1, 2, 4]),
  tones: Uint16Array.from([0, 65_535, 32_768, 0]),
  window: Uint8Array.from([0, 1, 1, 1]),
};

describe("light through a wall", () => {
  it("goes from tones to luminance and back", () => {
    for (const tone of [0, 0.02, 0.5, 1]) expect(encoded(decoded(tone))).toBeCloseTo(tone, 6);
    expect(decoded(0.5)).toBeCloseTo(0.21404, 4);
  });

  it("shows white at the thinnest wall and falls by the material's attenuation", () => {
    expect(shownTone(1, LOOK)).toBeCloseTo(1, 6);
    expect(decoded(shownTone(2, LOOK))).toBeCloseTo(Math.exp(-1), 6);
  });

  it("is painted in the colour of lamp and material, with the light of the room", () => {
    const pixels = paintLit({ rows: 1, columns: 2, mm: Float32Array.from([1, 100]) }, LOOK);
    expect([...pixels.slice(0, 4)]).toEqual([255, 188, 137, 255]);
    expect([...pixels.slice(4, 7)].every((part) => part < 25)).toBe(true);
    const bright = paintLit({ rows: 1, columns: 1, mm: Float32Array.from([4]) }, { ...LOOK, power: 0, ambient: 1 });
    expect([...bright.slice(0, 3)]).toEqual([234, 234, 234]);
  });

  it("takes colours from the document, the largest part 1", () => {
    expect(linear("#ff8000")[0]).toBe(1);
    const look = transmissionLookOf({
      glow: { thinnest_mm: 0.8, thickest_mm: 3, material: { attenuation_per_mm: 1.05, cast: "#808080" } },
      lamp: { colour: "#ff0000", power: 0.5, ambient: 0.1 },
    } as never);
    expect(look).toMatchObject({ attenuation: 1.05, thinnest: 0.8, thickest: 3, tint: [1, 0, 0], power: 0.5, ambient: 0.1 });
  });
});

describe("the looks of a sheet", () => {
  it("is straight where the picture is and stays the border beside it", () => {
    const { mm } = straightSheet(GRID, LOOK);
    expect(mm[0]).toBe(3);
    expect(mm[1]).toBeCloseTo(1, 4);
    expect(mm[2]).toBeCloseTo(2.5, 3);
    expect(mm[3]).toBeCloseTo(4, 4);
  });

  it("shows the wanted tones, and pale borders", () => {
    const pixels = paintWanted(GRID);
    expect([pixels[0], pixels[4], pixels[8], pixels[12]]).toEqual([236, 255, 128, 0]);
  });

  it("tells brighter from darker than wanted", () => {
    const pixels = paintDifference(GRID, LOOK);
    expect([...pixels.slice(4, 7)]).toEqual([250, 250, 250]);
    const black = [...pixels.slice(12, 15)] as [number, number, number];
    expect(black[0]).toBeGreaterThan(black[2]);
    expect([...pixels.slice(0, 3)]).toEqual([250, 250, 250]);
  });
});

describe("a sheet with colour filters", () => {
  const lit = Uint8Array.from([255, 255, 255, 255, 128, 0, 255, 128, 0, 255, 255, 255]);

  it("is as bright as without, in the colour that they give", () => {
    const white = { ...LOOK, tint: [1, 1, 1] as const };
    const plain = paintLit({ ...GRID, mm: GRID.heights }, white);
    const pixels = paintLit({ ...GRID, mm: GRID.heights }, white, lit);
    expect([...pixels.slice(0, 4)]).toEqual([...plain.slice(0, 4)]);
    const light = [...pixels.slice(8, 11)].map((tone) => decoded(tone / 255)) as [number, number, number];
    expect(0.2126 * light[0] + 0.7152 * light[1] + 0.0722 * light[2]).toBeCloseTo(Math.exp(-1), 2);
    expect(light[1] / light[0]).toBeCloseTo(decoded(128 / 255), 2);
    expect(light[2]).toBe(0);
  });

  it("shows the colours that are wanted where the picture is", () => {
    const pixels = paintWanted({ ...GRID, wanted: lit });
    expect([...pixels.slice(0, 3)]).toEqual([236, 236, 236]);
    expect([...pixels.slice(4, 7)]).toEqual([255, 128, 0]);
  });

  it("is as thick as its walls, whatever they look like", () => {
    const walls = Float32Array.from([4, 4, 0, 4]);
    const pixels = paintThickness({ ...GRID, walls }, LOOK);
    expect([...pixels.slice(0, 3)]).toEqual([...pixels.slice(4, 7)]);
    expect([...pixels.slice(8, 11)]).toEqual([250, 246, 236]);
  });
});
