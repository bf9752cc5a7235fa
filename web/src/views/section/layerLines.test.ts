import { expect, test } from "vitest";
import type { Layer } from "../../api/printing";
import { wallAt, wallLines } from "./layerLines";

const LINE = 0.4;

/** A straight wall along x, seen from its lower side, whose places take so many lines. */
function wall(places: { wide: number; lines: number; rest: number }[], walls = 3): Layer {
  return {
    head: { line_mm: LINE, walls } as Layer["head"],
    places: new Float32Array(places.flatMap((_, at) => [at * 0.2, 0])),
    inward: new Float32Array(places.flatMap(() => [0, 1])),
    wide: new Float32Array(places.map(({ wide }) => wide)),
    lines: new Uint8Array(places.map(({ lines }) => lines)),
    rest: new Float32Array(places.map(({ rest }) => rest)),
    runs: new Uint32Array(places.map(() => 0)),
  } as unknown as Layer;
}

const depths = (layer: Layer, kind: string) => wallLines(layer).filter((each) => each.kind === kind).map(({ points }) => Math.round((points[1] ?? 0) * 1000) / 1000);

test("four lines lie side by side, two from either side, and nothing stays hollow", () => {
  const four = wall([{ wide: 1.6, lines: 4, rest: 0 }, { wide: 1.6, lines: 4, rest: 0 }]);
  expect(depths(four, "line")).toEqual([0.2, 0.6]);
  expect(depths(four, "hollow")).toEqual([]);
});

test("the line in the middle of an odd number lies in the middle of the wall", () => {
  expect(depths(wall([{ wide: 1.2, lines: 3, rest: 0 }]), "line")).toEqual([0.2, 0.6]);
});

test("a rest shows between lines, as wide as it is", () => {
  const [hollow] = wallLines(wall([{ wide: 1, lines: 2, rest: 0.5 }])).filter(({ kind }) => kind === "hollow");
  expect(hollow?.wide).toBeCloseTo(0.2);
  expect(hollow?.points[1]).toBeCloseTo(0.5);
});

test("a wall too thin for a line is told apart, and thick ones get loops", () => {
  expect(wallLines(wall([{ wide: 0.2, lines: 0, rest: 0 }]))).toMatchObject([{ kind: "thin" }]);
  expect(depths(wall([{ wide: Infinity, lines: 6, rest: 0 }], 2), "line")).toEqual([0.2, 0.6]);
});

test("lines end where the number of them changes", () => {
  const both = wall([{ wide: 1.6, lines: 4, rest: 0 }, { wide: 1.6, lines: 4, rest: 0 }, { wide: 0.8, lines: 2, rest: 0 }]);
  expect(wallLines(both).map(({ points }) => points.length / 2)).toEqual([2, 2, 1]);
});

test("the wall near a place is read; far away there is none", () => {
  const four = wall([{ wide: 1.6, lines: 4, rest: 0 }, { wide: Infinity, lines: 6, rest: 0 }]);
  expect(wallAt(four, 0.02, 0.05, 0.5)).toEqual({ mm: expect.closeTo(1.6) as number, count: 4, rest: 0 });
  expect(wallAt(four, 0.21, 0, 0.5)).toBeNull();
  expect(wallAt(four, 9, 9, 0.5)).toBeNull();
});
