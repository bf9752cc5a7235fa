import { describe, expect, it } from "vitest";
import { askedProportion, gripped, proportioned } from "./boxEdits";

const BOX = { left: 0.2, bottom: 0.2, right: 0.8, top: 0.6 };

describe("editing a box", () => {
  it("moves what is gripped and stays inside the picture", () => {
    expect(gripped(BOX, ["right"], 0.5, 0.5)).toEqual({ ...BOX, right: 1 });
    expect(gripped(BOX, ["left", "top"], 0.1, 0.1)).toEqual({ left: 0.30000000000000004, bottom: 0.2, right: 0.8, top: 0.7 });
    const whole = gripped(BOX, ["left", "right", "bottom", "top"], -0.5, 0.1);
    expect(whole.left).toBe(0);
    expect(whole.right).toBeCloseTo(0.6);
    expect(whole.top).toBeCloseTo(0.7);
  });

  it("never turns inside out", () => {
    expect(gripped(BOX, ["left"], 0.9, 0).left).toBeCloseTo(0.79);
  });

  it("keeps proportions from the held corner", () => {
    const square = proportioned(BOX, ["right", "top"], 1);
    expect(square.left).toBe(0.2);
    expect(square.right - square.left).toBeCloseTo(square.top - square.bottom);
    const tall = proportioned({ ...BOX, top: 1 }, ["top"], 1);
    expect(tall.top - tall.bottom).toBeCloseTo(0.8);
    expect(tall.right - tall.left).toBeCloseTo(0.8);
  });

  it("reads what was asked", () => {
    expect(askedProportion("free", 80, 60)).toBeNull();
    expect(askedProportion("kept", 80, 60)).toBeCloseTo(4 / 3);
    expect(askedProportion("2:3", 80, 60)).toBeCloseTo(2 / 3);
  });
});
