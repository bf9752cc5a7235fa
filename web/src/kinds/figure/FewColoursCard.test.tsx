// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../../testing/server";
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { FigureDocument } from "../../api/client";
import { begun, editing, keep, kept, otherwise, pieceOf, show, type, typedIn } from "../../testing/stations";
import { patchAt } from "../common/fields/patchAt";
import { FewColoursCard } from "./FewColoursCard";

const FOG = { id: 1, name: "Fog", colour: "#c0c0c0" };
const MOSS = { id: 2, name: "Moss", colour: "#3f6b38" };
const FACTS = {
  before: "data:image/png;base64,AA==",
  after: "data:image/png;base64,AB==",
  report: {
    tints: [
      { name: "Moss", colour: "#3f6b38", area_mm2: 300 },
      { name: "Fog", colour: "#c0c0c0", area_mm2: 100 },
    ],
    error: 0.02, least_error: 0.019, patches: 7, smallest_patch_mm2: 1.25, layers: 1200, layers_in_several: 900, swaps: 1801, purged_mm3: 252140,
  },
};

beforeEach(() => {
  freshServer();
  on("GET /api/filaments", [FOG, MOSS]);
  on("POST /api/pieces/p1/few-colours", FACTS);
});
afterEach(() => {
  cleanup();
  keep.mockReset();
});

function card(few: object = {}) {
  const document = begun("FigureDocument", { figure: { colour: { on: true }, few: { on: true, ...few } } }) as unknown as FigureDocument;
  show(<FewColoursCard piece={pieceOf("figure", document as never, [])} pieceId="p1" revision={3} document={document} editing={editing} />, "figure");
  return document;
}
const filaments = () => screen.findByRole("group", { name: "My filaments" });

describe("few colours", () => {
  test("every number is kept at its place", () => {
    const document = card();
    for (const { field, place } of typedIn("FigureDocument", document as never, "figure.few")) {
      const value = place.split(".").reduce<unknown>((held, name) => (held as Record<string, unknown>)[name], document) as number;
      const { text, number } = otherwise(field, value);
      type(field.label, text);
      expect(keep.mock.lastCall?.[1], place).toEqual(patchAt(place, number));
    }
    expect(keep.mock.calls.length).toBe(4);
  });

  test("are seen before and after, with their shares and what printing them takes", async () => {
    card();
    const list = await screen.findByRole("list", { name: "Colours of the figure" });
    expect(within(list).getAllByRole("listitem").map((each) => each.textContent)).toEqual(["Moss75.0 %", "Fog25.0 %"]);
    expect(screen.getByAltText(/in all its colours/).getAttribute("src")).toBe(FACTS.before);
    expect(screen.getByAltText(/in few colours/).getAttribute("src")).toBe(FACTS.after);
    expect(screen.getByTestId("colour-changes").textContent).toBe(
      "About 1,801 changes of colour over 1,200 layers, 252.1 cm³ purged. Smallest of 7 patches: 1.3 mm².",
    );
  });

  test("say nothing yet where there are none", async () => {
    on("POST /api/pieces/p1/few-colours", null);
    card();
    await waitFor(() => expect(askedOf("POST /api/pieces/p1/few-colours")).toHaveLength(1));
    expect(screen.queryByTestId("colour-changes")).toBeNull();
  });

  test("are switched off as a whole", () => {
    card();
    fireEvent.click(screen.getByLabelText("Few colours on"));
    expect(kept()[1]).toEqual({ figure: { few: { on: false } } });
  });
});

describe("filaments", () => {
  test("are asked for only where they are meant", () => {
    card();
    expect(screen.queryByRole("group", { name: "My filaments" })).toBeNull();
    fireEvent.click(screen.getByRole("radio", { name: "My filaments" }));
    expect(kept()[1]).toEqual({ figure: { few: { of: "filaments" } } });
  });

  test("are chosen and left out, as they are in the table", async () => {
    card({ of: "filaments", filaments: [{ name: "Fog", colour: "#c0c0c0" }] });
    const group = await filaments();
    await within(group).findByLabelText("Moss");
    fireEvent.click(within(group).getByLabelText("Moss"));
    expect(kept()).toEqual(["With Moss", { figure: { few: { filaments: [{ name: "Fog", colour: "#c0c0c0" }, { name: "Moss", colour: "#3f6b38" }] } } }]);
    fireEvent.click(within(group).getByLabelText("Fog"));
    expect(kept()).toEqual(["Without Fog", { figure: { few: { filaments: [] } } }]);
  });

  test("where none is chosen it is said what is taken", async () => {
    card({ of: "filaments" });
    await filaments();
    expect(screen.getByText(/the picture’s own colours are taken/)).toBeTruthy();
  });

  test("are added, changed and dropped", async () => {
    on("POST /api/filaments", { id: 3, name: "Sky", colour: "#4080d0" });
    on("PUT /api/filaments/1", { ...FOG, colour: "#ffffff" });
    on("DELETE /api/filaments/2", null);
    card({ of: "filaments" });
    await filaments();
    fireEvent.change(await screen.findByLabelText("Name of a new filament"), { target: { value: " Sky " } });
    fireEvent.change(screen.getByLabelText("Colour of a new filament"), { target: { value: "#4080d0" } });
    fireEvent.click(screen.getByRole("button", { name: "Add" }));
    await waitFor(() => expect(askedOf("POST /api/filaments")).toEqual([{ name: "Sky", colour: "#4080d0" }]));
    const fog = await screen.findByLabelText("Colour of Fog");
    fireEvent.change(fog, { target: { value: "#ffffff" } });
    fireEvent.blur(fog);
    await waitFor(() => expect(askedOf("PUT /api/filaments/1")).toEqual([{ name: "Fog", colour: "#ffffff" }]));
    fireEvent.click(screen.getByRole("button", { name: "Drop Moss" }));
    await waitFor(() => expect(askedOf("DELETE /api/filaments/2")).toHaveLength(1));
  });

  test("a name that is taken is told", async () => {
    on("POST /api/filaments", () => ({ status: 409, json: { message: "There is a filament named Fog already; another name is needed." } }));
    card({ of: "filaments" });
    fireEvent.change(await screen.findByLabelText("Name of a new filament"), { target: { value: "Fog" } });
    fireEvent.keyDown(screen.getByLabelText("Name of a new filament"), { key: "Enter" });
    expect((await screen.findByRole("alert")).textContent).toContain("another name is needed");
  });
});
