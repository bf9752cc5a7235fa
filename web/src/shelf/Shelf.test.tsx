// @vitest-environment happy-dom
import { asked, askedOf, freshServer, later, on } from "../testing/server";
import { act, cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { QueryClientProvider } from "@tanstack/react-query";
import { MemoryRouter, Route, Routes, useParams } from "react-router";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { PieceCard } from "../api/client";
import { freshClient } from "../testing/page";
import { useRemoved } from "../state/removedStore";
import { Shelf } from "./Shelf";

vi.mock("../views/model/loadStage", () => ({ loadStage: () => Promise.resolve({ default: () => null }) }));

const card = (id: string, title: string): PieceCard =>
  ({ id, title, revision: 2, body: "Relief panel", maker: "Workshop printer", size_mm: [90, 114.04, 5.2], changed: new Date().toISOString() }) as unknown as PieceCard;

beforeEach(() => {
  freshServer();
  on("GET /api/pieces", [card("p1", "Hillside fern"), card("p2", "Acorn")]);
  on("GET /api/motifs?words=", []);
  useRemoved.getState().set(null);
});
afterEach(cleanup);

function Opened() {
  return <p>Opened {useParams().pieceId}</p>;
}

async function shelf() {
  render(
    <QueryClientProvider client={freshClient()}>
      <MemoryRouter>
        <Routes>
          <Route path="/" element={<Shelf />} />
          <Route path="/piece/:pieceId" element={<Opened />} />
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  );
  await waitFor(() => expect(askedOf("GET /api/pieces")).toHaveLength(1));
}

const take = (name: string) =>
  act(async () => fireEvent.change(screen.getByLabelText("Picture or model file"), { target: { files: [new File(["x"], name)] } }));

test("pieces tell what they are, how large, and by whom", async () => {
  await shelf();
  expect(await screen.findByRole("link", { name: /^Hillside fern/ })).toBeTruthy();
  expect(screen.getAllByText("Relief panel, 90 × 114 × 5.2 mm")).toHaveLength(2);
  expect(screen.getAllByText("just now")).toHaveLength(2);
});

test("an empty shelf tells how to begin", async () => {
  on("GET /api/pieces", []);
  await shelf();
  expect(await screen.findByRole("heading", { name: "The shelf is empty" })).toBeTruthy();
});

test("a shelf that cannot be fetched says why", async () => {
  on("GET /api/pieces", () => ({ status: 500, json: {} }));
  await shelf();
  expect((await screen.findByRole("alert")).textContent).toBe("Nebrel made a mistake here; your piece is unharmed.");
});

describe("a file", () => {
  test.each([
    ["fern.png", "POST /api/pieces"],
    ["Fern.TIFF", "POST /api/pieces"],
    ["bowl.STL", "POST /api/models"],
    ["bowl.glb", "POST /api/models"],
    ["leaf.svg", "POST /api/drawings"],
    ["leaf.DXF", "POST /api/drawings"],
    ["notes.txt", "POST /api/pieces"],
  ])("named %s goes by %s, and its piece is opened", async (name, address) => {
    on(address, { id: "new", revision: 1, document: {} });
    await shelf();
    await take(name);
    expect(await screen.findByText("Opened new")).toBeTruthy();
    expect(asked.filter(({ what }) => what.startsWith("POST")).map(({ what }) => what)).toEqual([address]);
  });

  test("that is refused says why, and the sentence can be put away", async () => {
    on("POST /api/pieces", () => ({ status: 422, json: { message: "words.png is not a picture; PNG, JPEG or TIFF would be accepted." } }));
    await shelf();
    await take("words.png");
    expect((await screen.findByRole("alert")).textContent).toContain("words.png is not a picture");
    fireEvent.click(screen.getByRole("button", { name: "Dismiss" }));
    expect(screen.queryByRole("alert")).toBeNull();
    expect(screen.getByRole("link", { name: /^Acorn/ })).toBeTruthy();
  });

  test("is named while it is read, and no second one is chosen meanwhile", async () => {
    const answer = later<{ json: unknown }>();
    on("POST /api/pieces", () => answer.promise);
    await shelf();
    await take("large.tif");
    expect(screen.getByText("Reading large.tif …")).toBeTruthy();
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Choose a file" }).disabled).toBe(true);
    await act(async () => answer.give({ json: { id: "new", revision: 1, document: {} } }));
    expect(await screen.findByText("Opened new")).toBeTruthy();
  });

  test("of a model without a unit asks for the size, and takes the answer", async () => {
    const sizes_mm = { mm: [0.081, 0.078, 0.063], m: [81, 78, 63] };
    let tries = 0;
    on("POST /api/models", () => (tries++ ? { json: { id: "new", revision: 1, document: {} } } : { status: 422, json: { message: "Which unit?", sizes_mm } }));
    await shelf();
    await take("pot.stl");
    expect(await screen.findByText(/pot.stl does not say what its numbers are/)).toBeTruthy();
    expect(screen.queryByRole("alert")).toBeNull();
    await act(async () => fireEvent.click(screen.getByRole("button", { name: /81 × 78 × 63 mm · its numbers are metres/ })));
    expect(await screen.findByText("Opened new")).toBeTruthy();
    expect(tries).toBe(2);
  });

  test("that is dropped anywhere starts a piece, once it is let go of", async () => {
    on("POST /api/pieces", { id: "new", revision: 1, document: {} });
    await shelf();
    const dataTransfer = { types: ["Files"], files: [new File(["x"], "fern.png")] };
    const drag = (kind: string, more: object = {}) => {
      const event = Object.assign(new Event(kind, { bubbles: true, cancelable: true }), { dataTransfer, relatedTarget: null, ...more });
      act(() => void window.dispatchEvent(event));
      return event;
    };
    expect(drag("dragover").defaultPrevented).toBe(true);
    expect(screen.getByText("Let go to start a piece from this file")).toBeTruthy();
    drag("dragleave");
    expect(screen.queryByText("Let go to start a piece from this file")).toBeNull();
    drag("drop");
    expect(await screen.findByText("Opened new")).toBeTruthy();
  });
});

describe("a piece", () => {
  const open = async (choice: string) => {
    await shelf();
    const more = await screen.findByRole("button", { name: "More for Acorn" });
    await act(async () => fireEvent.click(more));
    const chosen = await screen.findByText(choice);
    await act(async () => fireEvent.click(chosen));
  };

  test("is duplicated, and the shelf fetched anew", async () => {
    on("POST /api/pieces/p2/copy", {});
    await open("Duplicate");
    await waitFor(() => expect(askedOf("POST /api/pieces/p2/copy")).toHaveLength(1));
    await waitFor(() => expect(askedOf("GET /api/pieces")).toHaveLength(2));
  });

  test("is taken off the shelf, and put back", async () => {
    on("DELETE /api/pieces/p2", {});
    on("POST /api/pieces/p2/restore", {});
    await open("Take off the shelf");
    expect(await screen.findByText("“Acorn” was taken off the shelf.")).toBeTruthy();
    await act(async () => fireEvent.click(screen.getByRole("button", { name: "Put it back" })));
    expect(askedOf("POST /api/pieces/p2/restore")).toHaveLength(1);
    expect(screen.queryByText("“Acorn” was taken off the shelf.")).toBeNull();
  });

  test("that cannot be duplicated says why", async () => {
    on("POST /api/pieces/p2/copy", () => ({ status: 507, json: { message: "The disk is full." } }));
    await open("Duplicate");
    expect((await screen.findByRole("alert")).textContent).toContain("The disk is full.");
  });
});
