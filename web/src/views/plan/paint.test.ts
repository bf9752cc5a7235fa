import { describe, expect, it } from "vitest";
import { paintRelief, paintTones } from "./paint";

const ramp = {
  rows: 2,
  columns: 3,
  heights: new Float32Array([0, 1, 2, 0, 1, Number.NaN]),
  tones: new Uint16Array([0, 32768, 65535, 0, 32768, 65535]),
};

describe("paintTones", () => {
  it("keeps gray and leaves blanks clear", () => {
    const pixels = paintTones(ramp);
    expect([...pixels.slice(4, 8)]).toEqual([128, 128, 128, 255]);
    expect(pixels[5 * 4 + 3]).toBe(0);
  });
});

describe("paintRelief", () => {
  const brightness = (fromDeg: number) => paintRelief(ramp, 1, { fromDeg, aboveDeg: 20 })[4] ?? 0;

  it("lights a slope that faces the lamp and darkens one that turns away", () => {
    expect(brightness(180)).toBeGreaterThan(brightness(90));
    expect(brightness(0)).toBeLessThan(brightness(90));
  });
});
