import { asked, askedOf, framed, freshServer, on } from "../testing/server";
import { beforeEach, describe, expect, test } from "vitest";
import { PAGE } from "./client";
import { fetchBeside, fetchMap, fetchModel, fetchPlan, fetchStrip, fetchThinMap, fetchVariations } from "./preview";

beforeEach(freshServer);

const floats = (shape: number[], ...values: number[]) => ({ dtype: "float32", shape, values: Float32Array.from(values) });
const bytes = (shape: number[], ...values: number[]) => ({ dtype: "uint8", shape, values: Uint8Array.from(values) });
const TRIANGLE = {
  positions: floats([3, 3], 0, 0, 0, 1, 0, 0, 0, 1, 0),
  normals: { dtype: "int8", shape: [3, 3], values: Int8Array.from([0, 0, 127, 0, 0, 127, 0, 0, 127]) },
  faces: { dtype: "uint32", shape: [1, 3], values: Uint32Array.from([0, 1, 2]) },
};

test("a plan is heights and tones of one shape", async () => {
  const head = { size_mm: [80, 40, 4], pitch_mm: 40 };
  const tones = { dtype: "uint16", shape: [1, 2], values: Uint16Array.from([0, 65535]) };
  on("POST /api/pieces/p1/plan", () => ({ bytes: framed(head, { heights: floats([1, 2], 0, 3), tones }) }));
  const plan = await fetchPlan("p1", { title: "x" }, 720, "op-1");
  expect(plan.head.size_mm).toEqual([80, 40, 4]);
  expect(plan.grid).toMatchObject({ rows: 1, columns: 2 });
  expect([...plan.grid.heights]).toEqual([0, 3]);
  expect([...plan.grid.tones]).toEqual([0, 65535]);
  expect(plan.grid.window).toBeUndefined();
  expect(askedOf("POST /api/pieces/p1/plan")).toEqual([{ change: { title: "x" }, longest_px: 720, upto: "op-1" }]);
});

describe("a model", () => {
  test("has no colours and no sheet, unless it says so", async () => {
    on("POST /api/pieces/p1/model", () => ({ bytes: framed({ standing: false, low_mm: [0, 0, 0], sheet_mm: null, around: false }, TRIANGLE) }));
    const solid = await fetchModel("p1", {}, 320);
    expect([...solid.faces]).toEqual([0, 1, 2]);
    expect(solid).toMatchObject({ standing: false, low: [0, 0, 0], colours: undefined, sheet: undefined });
  });

  test("tells where its corner was, whether it stands, and its colours", async () => {
    on("POST /api/pieces/p1/model", () => ({ bytes: framed({ standing: true, low_mm: [-5, -5, 0] }, { ...TRIANGLE, colours: bytes([3, 4], 1, 2, 3, 255, 1, 2, 3, 255, 1, 2, 3, 255) }) }));
    const solid = await fetchModel("p1", {}, 320);
    expect(solid).toMatchObject({ standing: true, low: [-5, -5, 0] });
    expect([...(solid.colours ?? [])].slice(0, 4)).toEqual([1, 2, 3, 255]);
  });

  test("of a lithophane brings what light passes", async () => {
    const arrays = { places: floats([3, 3], 0, 0, 1, 1, 0, 1, 0, 1, 1), through: floats([1, 2], 0.8, 3) };
    on("POST /api/pieces/p1/model", () => ({ bytes: framed({ sheet_mm: [10, 5], around: false }, { ...TRIANGLE, ...arrays }) }));
    const { sheet } = await fetchModel("p1", {}, 320);
    expect(sheet?.sizeMm).toEqual([10, 5]);
    expect(sheet?.through).toMatchObject({ rows: 1, columns: 2 });
  });

  test("without its faces is an error and no half model", async () => {
    on("POST /api/pieces/p1/model", () => ({ bytes: framed({}, { positions: TRIANGLE.positions, normals: TRIANGLE.normals }) }));
    await expect(fetchModel("p1", {}, 320)).rejects.toThrow("faces");
  });
});

test("a strip shows what worked and says why the rest did not", async () => {
  const arrays = { gray0: bytes([1, 2], 0, 255), cover0: bytes([1, 2], 255, 255) };
  on("POST /api/pieces/p1/strip", () => ({ bytes: framed({ ids: ["", "op-1"], failed: { "op-1": "Nothing would be left." } }, arrays) }));
  const { thumbs, failed } = await fetchStrip("p1", {});
  expect([...thumbs.keys()]).toEqual([""]);
  expect(thumbs.get("")).toMatchObject({ rows: 1, columns: 2 });
  expect(failed["op-1"]).toBe("Nothing would be left.");
});

test("thin places are strokes and gaps of one shape", async () => {
  on("POST /api/pieces/p1/thin-map", () => ({ bytes: framed({}, { strokes: bytes([2, 1], 0, 200), gaps: bytes([2, 1], 90, 0) }) }));
  expect(await fetchThinMap("p1", {})).toEqual({ rows: 2, columns: 1, strokes: Uint8Array.from([0, 200]), gaps: Uint8Array.from([90, 0]) });
});

test("a measure is taken from the preview, or from what a job built", async () => {
  const frame = framed({ kind: "thickness", unit: "mm", least: 1, most: 4 }, { ...TRIANGLE, values: floats([3], 1, 2, Number.NaN) });
  on("POST /api/pieces/p1/map", () => ({ bytes: frame }));
  on("GET /api/jobs/j1/map?kind=thickness", () => ({ bytes: frame }));
  for (const builtBy of [undefined, "j1"]) {
    const map = await fetchMap("p1", "thickness", builtBy);
    expect(map.head.most).toBe(4);
    expect(map.values[2]).toBeNaN();
  }
  expect(askedOf("POST /api/pieces/p1/map")).toEqual([{ kind: "thickness" }]);
});

test("beside today's model stands a version, or the mesh as it came", async () => {
  on("GET /api/versions/7/model", () => ({ bytes: framed({ standing: false, low_mm: [0, 0, 0], sheet_mm: null, around: false }, TRIANGLE) }));
  on("GET /api/pieces/p1/original/model", () => ({ bytes: framed({ standing: true }, TRIANGLE) }));
  expect((await fetchBeside("p1", 7)).standing).toBe(false);
  expect((await fetchBeside("p1", "before")).standing).toBe(true);
});

test("every cell of a contact sheet gets its own thicknesses", async () => {
  const cell = { thinnest_mm: 0.8, thickest_mm: 3, strength: 1, contrast: 12 };
  on("POST /api/pieces/p1/variations", () => ({ bytes: framed({ cells: [cell, { ...cell, strength: 0.5 }] }, { through0: floats([1, 1], 1), through1: floats([1, 1], 2) }) }));
  const cells = await fetchVariations("p1");
  expect(cells.map(({ strength, through }) => [strength, through.mm[0]])).toEqual([[1, 1], [0.5, 2]]);
});

describe("what is refused", () => {
  test("is told in the server's sentence", async () => {
    on("POST /api/pieces/p1/model", () => ({ status: 422, json: { message: "The picture is empty." } }));
    await expect(fetchModel("p1", {}, 320)).rejects.toMatchObject({ message: "The picture is empty.", status: 422 });
  });

  test("without a sentence is owned up to", async () => {
    on("POST /api/pieces/p1/model", () => ({ status: 500, json: "Internal Server Error" }));
    await expect(fetchModel("p1", {}, 320)).rejects.toThrow("Nebrel made a mistake here; your piece is unharmed.");
  });

  test("by nobody there is told as that", async () => {
    await expect(fetchModel("p1", {}, 320)).rejects.toThrow("Nebrel's server does not answer.");
  });
});

test("a page says which it is, so that the server can share itself out", async () => {
  on("POST /api/pieces/p1/model", () => ({ bytes: framed({ standing: false, low_mm: [0, 0, 0] }, TRIANGLE) }));
  await fetchModel("p1", {}, 320);
  expect(asked[0]?.page).toBe(PAGE["Nebrel-Page"]);
  expect(PAGE["Nebrel-Page"]).toMatch(/^\d+-\d+$/);
});
