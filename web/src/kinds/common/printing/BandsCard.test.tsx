// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../../../testing/server";
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { AnyDocument } from "../../../api/client";
import { useBenchStore } from "../../../state/benchStore";
import { freshClient, onPage } from "../../../testing/page";
import { begun, editing, keep, kept, part, type } from "../../../testing/stations";
import { BandsCard } from "./BandsCard";

const CHANGE = { from_mm: 2.4, colour: "#f0e8d8", name: "" };
const BANDS = { on: true, colour: "#203040", name: "Slate", changes: [CHANGE] };
const TAKES = [
  { colour: "#203040", name: "Slate", layers: [1, 15], from_mm: 0, minutes: 39, grams: 15.6, price: 0.34 },
  { colour: "#f0e8d8", name: "", layers: [16, 25], from_mm: 2.4, minutes: 128, grams: 5, price: 0.11 },
];

beforeEach(() => {
  freshServer();
  on("GET /api/jobs?piece_id=p1", []);
  on("GET /api/filaments", [{ id: 4, name: "Chalk", colour: "#ffffee" }]);
  on("POST /api/pieces/p1/layers", { bands: TAKES });
  useBenchStore.setState({ unit: "mm" });
});
afterEach(() => {
  cleanup();
  keep.mockReset();
});

function card(bands: object = BANDS) {
  const document = begun("PanelDocument", { printing: part("PrintingPart", { bands: part("BandsPart", bands as Record<string, unknown>) }) }) as unknown as AnyDocument;
  render(<BandsCard pieceId="p1" revision={3} document={document} editing={editing} />, { wrapper: onPage(freshClient()) });
}

test("a change is added, moved, coloured by a filament and dropped", async () => {
  card();
  fireEvent.click(screen.getByRole("button", { name: "Add a change" }));
  expect(kept()).toEqual(["Another colour", { printing: { bands: { changes: [CHANGE, { from_mm: 3.4, colour: "#e9dfcd", name: "" }] } } }]);
  type("From", "3");
  expect(kept()).toEqual(["Colour from 3 mm", { printing: { bands: { changes: [{ ...CHANGE, from_mm: 3 }] } } }]);
  await screen.findAllByText("Chalk");
  fireEvent.change(screen.getByLabelText("Colour of change 1, as a filament"), { target: { value: "4" } });
  expect(kept()).toEqual(["Another colour", { printing: { bands: { changes: [{ from_mm: 2.4, colour: "#ffffee", name: "Chalk" }] } } }]);
  fireEvent.change(screen.getByLabelText("Colour below"), { target: { value: "#112233" } });
  expect(kept()).toEqual(["Colour below", { printing: { bands: { colour: "#112233", name: "" } } }]);
  fireEvent.click(screen.getByRole("button", { name: "Drop change 1" }));
  expect(kept()).toEqual(["One colour less", { printing: { bands: { changes: [] } } }]);
});

test("changes are proposed for so many colours, or it is said why not", async () => {
  const found = { ...BANDS, changes: [CHANGE, { ...CHANGE, from_mm: 3.8 }] };
  on("POST /api/pieces/p1/bands/suggested", found);
  card({ ...BANDS, changes: [] });
  fireEvent.change(screen.getByLabelText("How many colours"), { target: { value: "3" } });
  await act(async () => fireEvent.click(screen.getByRole("button", { name: "Propose from the heights" })));
  expect(askedOf("POST /api/pieces/p1/bands/suggested")).toMatchObject([{ colours: 3 }]);
  expect(kept()).toEqual(["3 colours by layers", { printing: { bands: found } }]);
  on("POST /api/pieces/p1/bands/suggested", () => ({ status: 409, json: { message: "Type heights." } }));
  await act(async () => fireEvent.click(screen.getByRole("button", { name: "Propose from the heights" })));
  expect((await screen.findByRole("alert")).textContent).toBe("Type heights.");
});

test("what every colour takes is told", async () => {
  card();
  const takes = await screen.findByLabelText("What each colour takes");
  expect(takes.textContent).toContain("Slate, from layer 1");
  expect(takes.textContent).toContain("2 h 08 min, 5.0 g, 0.11");
});

test("a change that no layer takes is told", async () => {
  card({ ...BANDS, changes: [CHANGE, { ...CHANGE, from_mm: 90 }] });
  expect(await screen.findByText(/A change lies above the piece/)).toBeTruthy();
});
