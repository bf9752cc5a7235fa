// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../../testing/server";
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { PieceView } from "../../api/client";
import { MOTIF_TYPE } from "../../api/motifs";
import { useBenchStore } from "../../state/benchStore";
import { useOutlineStore } from "../../state/outlineStore";
import { onPage } from "../../testing/page";
import { MotifsPanel } from "./MotifsPanel";

const motif = (id: string, name: string, more = {}) => ({ id, name, tags: [], width_mm: 20, height_mm: 12.5, outlines: true, changed: "2026-01-01T10:00:00Z", ...more });
const ACORN = motif("m1", "Acorn", { tags: ["tree", "autumn"] });
const MOON = motif("m2", "Moon", { outlines: false });
const piece = (kind: string, abilities: string[]) => ({ id: "p1", kind, abilities, document: { title: "Fern" } }) as unknown as PieceView;
const OUTLINES = piece("traced", ["outlines"]);
const PANEL = piece("panel", ["picture", "heights"]);
const MODEL = piece("model", ["skin"]);

beforeEach(() => {
  freshServer();
  on("GET /api/motifs?words=", [ACORN, MOON]);
  on("GET /api/motifs", [ACORN, MOON]);
  useBenchStore.setState({ unit: "mm" });
  useOutlineStore.setState({ chosen: [] });
});
afterEach(cleanup);

async function open(on: PieceView | null) {
  render(<MotifsPanel show onHide={() => undefined} piece={on} />, { wrapper: onPage() });
  await screen.findByText("Acorn");
}
const button = (name: string) => screen.getByRole<HTMLButtonElement>("button", { name });

describe("motifs", () => {
  test("tell their size and tags", async () => {
    await open(PANEL);
    expect(screen.getAllByRole("listitem").map((item) => item.querySelector(".quiet-label")?.textContent)).toEqual(["20.00 mm × 12.50 mm · tree, autumn", "20.00 mm × 12.50 mm"]);
  });

  test("are searched as one types, and a search without a find says so", async () => {
    on("GET /api/motifs?words=oak", []);
    await open(PANEL);
    fireEvent.change(screen.getByLabelText("Search motifs"), { target: { value: "oak" } });
    await screen.findByText("No motif is called like that.");
    expect(screen.getByRole("link", { name: "Save these as a pack" }).getAttribute("href")).toBe("/api/motif-pack.zip?words=oak");
  });

  test("are laid on the middle of a piece, which follows them or not", async () => {
    on("POST /api/pieces/p1/motifs", PANEL);
    await open(PANEL);
    fireEvent.click(button("Lay on: Acorn"));
    fireEvent.click(screen.getByLabelText("Pieces follow the motif when it changes"));
    fireEvent.click(button("Lay on: Moon"));
    await waitFor(() => expect(askedOf("POST /api/pieces/p1/motifs")).toEqual([
      { motif_id: "m1", follow: true, x: 0.5, y: 0.5 },
      { motif_id: "m2", follow: false, x: 0.5, y: 0.5 },
    ]));
  });

  test("without outlines cannot be laid on a piece that is made of them", async () => {
    await open(OUTLINES);
    expect(button("Lay on: Acorn").disabled).toBe(false);
    expect(button("Lay on: Moon").disabled).toBe(true);
  });

  test("are dragged with what the Plan needs to know", async () => {
    await open(PANEL);
    const carried = new Map<string, string>();
    const row = screen.getByText("Acorn").closest("li") as Element;
    const start = new Event("dragstart", { bubbles: true });
    Object.assign(start, { dataTransfer: { setData: (type: string, data: string) => carried.set(type, data) } });
    fireEvent(row, start);
    expect(JSON.parse(carried.get(MOTIF_TYPE) ?? "null")).toEqual({ motif_id: "m1", follow: true });
  });

  test("that were refused say why", async () => {
    on("POST /api/pieces/p1/motifs", () => ({ status: 422, json: { message: "This motif has no outlines." } }));
    await open(PANEL);
    fireEvent.click(button("Lay on: Moon"));
    expect((await screen.findByRole("alert")).textContent).toBe("This motif has no outlines.");
  });

  test("are renamed, and their tags read from a line with commas", async () => {
    on("PUT /api/motifs/m1", ACORN);
    await open(null);
    fireEvent.click(button("Name and tags of Acorn"));
    fireEvent.change(screen.getByLabelText("Name of the motif"), { target: { value: " Oak acorn " } });
    fireEvent.change(screen.getByLabelText("Tags of the motif"), { target: { value: "oak, , tree,oak" } });
    fireEvent.click(button("Keep"));
    await waitFor(() => expect(askedOf("PUT /api/motifs/m1")).toEqual([{ name: "Oak acorn", tags: ["oak", "tree"] }]));
    expect(screen.queryByLabelText("Name of the motif")).toBeNull();
  });

  test("are removed, and become the piece on the bench", async () => {
    on("DELETE /api/motifs/m2", null);
    on("POST /api/motifs/m1/from/p1", ACORN);
    await open(PANEL);
    fireEvent.click(button("Remove the motif Moon"));
    fireEvent.click(button("Change Acorn into this piece"));
    await waitFor(() => expect([askedOf("DELETE /api/motifs/m2"), askedOf("POST /api/motifs/m1/from/p1")].map((each) => each.length)).toEqual([1, 1]));
  });
});

describe("a piece becomes a motif", () => {
  const keepIt = async (name: string) => {
    on("POST /api/motifs", ACORN);
    fireEvent.click(button(name));
    await waitFor(() => expect(askedOf("POST /api/motifs")).toHaveLength(1));
    return askedOf("POST /api/motifs")[0];
  };

  test("as a whole, under its title", async () => {
    await open(PANEL);
    expect(await keepIt("Keep this piece")).toEqual({ piece_id: "p1", name: "Fern", tags: [], chosen: [] });
  });

  test("or by the outlines that are chosen", async () => {
    useOutlineStore.setState({ chosen: [2, 5] });
    await open(OUTLINES);
    expect(await keepIt("Keep the 2 chosen")).toEqual({ piece_id: "p1", name: "Fern", tags: [], chosen: [2, 5] });
  });

  test("but choices of outlines mean nothing to a panel", async () => {
    useOutlineStore.setState({ chosen: [2, 5] });
    await open(PANEL);
    expect(button("Keep this piece")).toBeTruthy();
  });

  test("but a model does not, and neither does the empty shelf", async () => {
    await open(MODEL);
    expect(screen.queryByRole("button", { name: "Keep this piece" })).toBeNull();
    expect(button("Lay on: Acorn")).toBeTruthy();
    cleanup();
    await open(null);
    expect(screen.queryByRole("button", { name: /^Keep|^Lay on/ })).toBeNull();
  });

  test("and needs a name", async () => {
    await open(PANEL);
    fireEvent.change(screen.getByLabelText("Name of the motif"), { target: { value: "  " } });
    expect(button("Keep this piece").disabled).toBe(true);
  });
});

test("a pack is opened, and the same file can be chosen again", async () => {
  on("POST /api/motif-pack", [ACORN]);
  await open(null);
  const field = screen.getByLabelText<HTMLInputElement>("Motif pack");
  fireEvent.change(field, { target: { files: [new File(["zip"], "acorns.zip")] } });
  await waitFor(() => expect(askedOf("POST /api/motif-pack")).toHaveLength(1));
  expect(field.value).toBe("");
});
