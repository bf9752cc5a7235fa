import { describe, expect, it } from "vitest";
import { emptyRows, readingsOf, rowsOf } from "./readings";

describe("readings behind a wedge", () => {
  it("start empty with the bare light first", () => {
    expect(emptyRows([0.4, 1])).toEqual([
      { mm: 0, text: "" },
      { mm: 0.4, text: "" },
      { mm: 1, text: "" },
    ]);
    expect(readingsOf(emptyRows([0.4, 1]), " ")).toEqual({ thickness_mm: [], brightness: [], dark: [], edge: [] });
  });

  it("leave out what was not read, and take a comma for a point", () => {
    const rows = [
      { mm: 0, text: "" },
      { mm: 0.4, text: " 0,58" },
      { mm: 1, text: "0.31" },
    ];
    expect(readingsOf(rows, "0,02")).toEqual({ thickness_mm: [0.4, 1], brightness: [0.58, 0.31], dark: [0.02], edge: [] });
  });

  it("come back as they were read", () => {
    const readings = { thickness_mm: [0, 0.4], brightness: [1, 0.583331], dark: [], edge: [] };
    expect(readingsOf(rowsOf(readings), "", [[0.1, 0.5]])).toEqual({ thickness_mm: [0, 0.4], brightness: [1, 0.58333], dark: [], edge: [[0.1, 0.5]] });
  });
});
