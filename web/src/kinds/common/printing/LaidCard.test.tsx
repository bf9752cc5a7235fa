// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../../../testing/server";
import { cleanup, fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { AnyDocument } from "../../../api/client";
import { freshClient, onPage } from "../../../testing/page";
import { begun, editing, keep, kept, part, type } from "../../../testing/stations";
import { LaidCard } from "./LaidCard";

const TURNS = "POST /api/pieces/p1/turns";
const way = (names: string[], down: number[], more: object = {}) => ({
  names, turn: { down, support_mm3: 0, height_mm: 30, footprint_mm2: 9, tips_deg: 20, steps_mm: 0, scars_mm2: 0, score: 0, own: false },
  built: { height_mm: 30, overhang_mm2: 0, support_mm3: 7800, islands: 0, minutes: 95, grams: 12.3 }, price: 0.27, taken: false, fits_bed: true, ...more,
});
const MADE = way(["as made", "lying"], [0, 0, -1], { taken: true });
const BEST = way(["best"], [0, -1, 0], { built: { height_mm: 20, overhang_mm2: 0, support_mm3: 0, islands: 2, minutes: 40, grams: 9 }, fits_bed: false });

beforeEach(() => {
  freshServer();
  on("GET /api/jobs?piece_id=p1", []);
  on(TURNS, [MADE, BEST]);
});
afterEach(() => {
  cleanup();
  keep.mockReset();
});

function card(printing = {}) {
  const document = begun("PanelDocument", { printing: part("PrintingPart", printing) }) as unknown as AnyDocument;
  render(<LaidCard pieceId="p1" revision={3} document={document} editing={editing} />, { wrapper: onPage(freshClient()) });
}

test("ways are compared once that is asked for, and one is taken", async () => {
  card();
  expect(screen.getByText("It is printed as it lies.")).toBeTruthy();
  expect(askedOf(TURNS)).toEqual([]);
  fireEvent.click(screen.getByRole("button", { name: "Compare ways to lay it" }));
  const made = await screen.findByRole("listitem", { name: "As made, Lying" });
  expect(made.textContent).toContain("7.80 cm³");
  expect(within(made).getByText("taken")).toBeTruthy();
  const best = screen.getByRole("listitem", { name: "Best" });
  for (const words of ["none", "20.0 mm", "40 min", "9.0 g", "2 in mid-air", "larger than the bed"]) expect(best.textContent).toContain(words);
  expect(within(best).getByRole<HTMLImageElement>("img").src).toContain("turned.png?x=0&y=-1&z=0&revision=3");
  fireEvent.click(within(best).getByRole("button", { name: "Take: Best" }));
  expect(kept()).toEqual(["Laid best", { printing: { down: [0, -1, 0] } }]);
});

test("other weights ask anew", async () => {
  card();
  fireEvent.click(screen.getByRole("button", { name: "Compare ways to lay it" }));
  await screen.findByRole("listitem", { name: "Best" });
  type("Low", "2");
  await waitFor(() => expect(askedOf(TURNS)).toHaveLength(2));
  expect(askedOf(TURNS)[1]).toMatchObject({ weights: { height: 2, support: 1 } });
});

test("one that is printed turned says so, and a refusal is told", async () => {
  on(TURNS, () => ({ status: 422, json: { message: "The mesh is not closed." } }));
  card({ down: [0, -1, 0] });
  expect(screen.getByText(/printed turned; files hold it so/)).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Compare ways to lay it" }));
  expect((await screen.findByRole("alert")).textContent).toBe("The mesh is not closed.");
});
