// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../../../testing/server";
import { cleanup, fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { AnyDocument } from "../../../api/client";
import { useBenchStore } from "../../../state/benchStore";
import { freshClient, onPage } from "../../../testing/page";
import { begun, editing, keep, kept, part, type } from "../../../testing/stations";
import { LayersCard } from "./LayersCard";

const LAYERS = "POST /api/pieces/p1/layers";
const FIXES = "POST /api/pieces/p1/layers/fixes";
const WALL = { severity: "caution", what: "In layers 13–75 a wall of 1.05 mm fits 2.5 lines.", why: "The rest stays hollow.", measure: "awkward-wall", where: [4, 5, 6], value: 2.5, unit: "lines", fix: null };
const REPORT = {
  layers: 188, height_mm: 30, layer_mm: [0.16, 0.16], cusp_mm: 0.1, thin_spots: [], awkward_walls: [], islands: [], bridges: [],
  overhang_mm2: 300, support_mm3: 7800, minutes: 95, minutes_of: { walls: 60, infill: 30, support: 5, travel: 0.2, changes: 0.1 }, grams: 12.34, support_grams: 1,
  findings: [{ ...WALL, where: [7, 8, 6] }],
};
const VIEW = {
  report: REPORT, size_mm: [20, 20, 30], fits_bed: true, line_mm: 0.42, bounds_mm: [0, 0.16], scars_mm2: [300, 0], swaps: 0, swap_minutes: 0, price: 0.27, bands: [],
  findings: [{ finding: WALL, layer: 14 }], finished: false,
};
const FIX = { mends: "walls", words: "Lay lines 0.35 mm wide, 3 to such a wall", change: { maker: { line_width_mm: 0.35 } }, before: 900, after: 90, islands: 0 };

beforeEach(() => {
  freshServer();
  on("GET /api/jobs?piece_id=p1", []);
  on(LAYERS, VIEW);
  on(FIXES, [FIX]);
  useBenchStore.setState({ unit: "mm", byLayers: false, layer: 1, closeUp: null, cursor: null });
});
afterEach(() => {
  cleanup();
  keep.mockReset();
});

function card() {
  const document = begun("PanelDocument", { maker: part("PrinterMaker"), printing: part("PrintingPart") }) as unknown as AnyDocument;
  render(<LayersCard pieceId="p1" revision={3} document={document} editing={editing} />, { wrapper: onPage(freshClient()) });
}

test("what a print takes is told in its parts", async () => {
  card();
  const facts = await screen.findByTestId("layer-facts");
  for (const words of ["188 of 0.16 mm", "1 h 35 min, 12.3 g, 0.27", "walls 1 h 00 min, infill 30 min, support 5 min", "7.80 cm³ below 300 mm²", "300 mm², nothing that shows"]) {
    expect(facts.textContent).toContain(words);
  }
  expect(facts.textContent).not.toContain("travel");
});

test("a finding is shown in its layer, closely, where it lies on the plate", async () => {
  card();
  fireEvent.click(await screen.findByRole("button", { name: "Show" }));
  expect(useBenchStore.getState()).toMatchObject({ byLayers: true, layer: 14, closeUp: { x: 7, y: 8 }, cursor: { x: 4, y: 5 } });
});

test("what helps is kept by a press, from the finding and from the list", async () => {
  card();
  const fixes = await screen.findAllByRole("button", { name: `Fix: ${FIX.words}` });
  expect(fixes).toHaveLength(2);
  for (const fix of fixes) {
    fireEvent.click(fix);
    expect(kept()).toEqual([FIX.words, FIX.change]);
  }
  expect(screen.getByTestId("layer-fix").textContent).toContain("90 % less thin and awkward walls");
});

test("where nothing is wrong nothing is tried", async () => {
  on(LAYERS, { ...VIEW, findings: [] });
  card();
  await screen.findByTestId("layer-facts");
  expect(askedOf(FIXES)).toEqual([]);
});

test("layers that cannot be cut say why", async () => {
  on(LAYERS, () => ({ status: 422, json: { message: "The mesh is not closed, so its layers have no inside; repair it first." } }));
  card();
  expect((await screen.findByRole("alert")).textContent).toContain("not closed");
});

test("an open model is repaired by a press, and made anew where that left something", async () => {
  on(LAYERS, () => ({ status: 422, json: { message: "The mesh is not closed." } }));
  const model = (steps: object[]) => begun("ModelDocument", { maker: part("PrinterMaker"), printing: part("PrintingPart"), steps }) as unknown as AnyDocument;
  const look = (steps: object[]) => render(<LayersCard pieceId="p1" revision={3} document={model(steps)} editing={editing} />, { wrapper: onPage(freshClient(), "model") });
  look([]);
  fireEvent.click(await screen.findByRole("button", { name: "Fix: Repair" }));
  expect(kept()).toMatchObject(["Repair", { steps: [{ kind: "repair" }] }]);
  cleanup();
  look([{ kind: "repair", id: "a", on: true }]);
  fireEvent.click(await screen.findByRole("button", { name: "Fix: Make the surface anew" }));
  expect(kept()).toMatchObject(["Make the surface anew", { steps: [{ kind: "repair" }, { kind: "remesh" }] }]);
});

test("layers and lines are typed, and how they are laid", async () => {
  card();
  await screen.findByTestId("layer-facts");
  type("Layer height", "0.2");
  expect(kept()).toEqual(["Layer height 0.2 mm", { maker: { layer_mm: 0.2 } }]);
  type("Lines round", "4");
  expect(kept()).toEqual(["Lines round 4", { printing: { walls: 4 } }]);
  fireEvent.click(screen.getByRole("button", { name: "Look through the layers" }));
  expect(useBenchStore.getState().byLayers).toBe(true);
});

test("islands, more than the bed and changes of colour are told", async () => {
  on(LAYERS, { ...VIEW, fits_bed: false, swaps: 40, swap_minutes: 60, scars_mm2: [300, 120], report: { ...REPORT, layer_mm: [0.05, 0.16], support_mm3: 0 } });
  on(FIXES, [{ ...FIX, mends: "hanging", before: 7800, after: 100, islands: 2 }]);
  card();
  const facts = await screen.findByTestId("layer-facts");
  for (const words of ["more than the bed", "40, 1 h 00 min", "120 of them where it shows", "0.05–0.16", "none", "2 h 35 min"]) expect(facts.textContent).toContain(words);
  await waitFor(() => expect(within(screen.getByTestId("layer-fix")).getByText(/2 still in mid-air/)).toBeTruthy());
});
