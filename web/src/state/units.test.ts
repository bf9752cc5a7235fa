import { describe, expect, it } from "vitest";
import { formatLength, lengthWithUnit, parseLength } from "./units";

describe("parseLength", () => {
  it.each([
    ["3.5", "mm", 3.5],
    ["3,5", "mm", 3.5],
    ["1/8 in", "mm", 3.175],
    ["2 1/4 in", "mm", 57.15],
    ["2", "in", 50.8],
    ["20 mm", "in", 20],
    ["1.2cm", "mm", 12],
    ["-3", "mm", -3],
    [".5", "mm", 0.5],
  ] as const)("reads %s in %s", (text, unit, mm) => {
    expect(parseLength(text, unit)).toBeCloseTo(mm, 9);
  });

  it.each(["", "abc", "1/0", "3 mm mm", "1e400", "--2", "NaN"])("refuses %s", (text) => {
    expect(parseLength(text, "mm")).toBeNull();
  });
});

describe("showing lengths", () => {
  it("drops zeros that say nothing", () => {
    expect(formatLength(80, "mm")).toBe("80");
    expect(formatLength(1.25, "mm")).toBe("1.25");
    expect(formatLength(25.4, "in")).toBe("1");
    expect(formatLength(3.175, "in")).toBe("0.125");
  });

  it("keeps them where numbers change under the pointer", () => {
    expect(lengthWithUnit(3, "mm")).toBe("3.00 mm");
    expect(lengthWithUnit(25.4, "in")).toBe("1.000 in");
  });
});
