// @vitest-environment happy-dom
import { asked, askedOf, freshServer, later, on } from "../testing/server";
import { act, cleanup, fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import { QueryClientProvider } from "@tanstack/react-query";
import { MemoryRouter, Route, Routes, useParams } from "react-router";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { PieceCard } from "../api/client";
import { freshClient } from "../testing/page";
import { useBenchStore } from "../state/benchStore";
import { useGuideStore } from "../state/guideStore";
import { useRemoved } from "../state/removedStore";
import { useShelfStore } from "../state/shelfStore";
import { Shelf } from "./Shelf";

vi.mock("../views/model/loadStage", () => ({ loadStage: () => Promise.resolve({ default: () => null }) }));

// One moment for all, so that the order of the tiles is that of the answer.
const now = new Date().toISOString();
const card = (id: string, title: string): PieceCard =>
  ({ id, title, revision: 2, body: "Relief panel", maker: "Workshop printer", size_mm: [90, 114.04, 5.2], created: now, changed: now, tags: [] }) as unknown as PieceCard;

beforeEach(() => {
  freshServer();
  on("GET /api/pieces", [card("p1", "Hillside fern"), card("p2", "Acorn")]);
  on("GET /api/motifs?words=", []);
  useRemoved.getState().set(null);
  useShelfStore.setState({ chosen: null });
});
afterEach(cleanup);

function Opened() {
  return <p>Opened {useParams().pieceId}</p>;
}

function Choosing() {
  return <p>Choosing for {useParams().pieceId}</p>;
}

async function shelf() {
  render(
    <QueryClientProvider client={freshClient()}>
      <MemoryRouter>
        <Routes>
          <Route path="/" element={<Shelf />} />
          <Route path="/piece/:pieceId" element={<Opened />} />
          <Route path="/piece/:pieceId/choose" element={<Choosing />} />
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
  expect(await screen.findByRole("heading", { name: "What will you make first?" })).toBeTruthy();
});

test("a shelf that cannot be fetched says why", async () => {
  on("GET /api/pieces", () => ({ status: 500, json: {} }));
  await shelf();
  expect((await screen.findByRole("alert")).textContent).toBe("Nebrel made a mistake here; your piece is unharmed.");
});

describe("a file", () => {
  test.each([
    ["fern.png", "POST /api/pieces", "Choosing for new"],
    ["Fern.TIFF", "POST /api/pieces", "Choosing for new"],
    ["bowl.STL", "POST /api/models", "Opened new"],
    ["bowl.glb", "POST /api/models", "Opened new"],
    ["leaf.svg", "POST /api/drawings", "Opened new"],
    ["leaf.DXF", "POST /api/drawings", "Opened new"],
    ["notes.txt", "POST /api/pieces", "Choosing for new"],
  ])("named %s goes by %s; of a picture is asked what it shall be", async (name, address, then) => {
    on(address, { id: "new", revision: 1, document: {} });
    await shelf();
    await take(name);
    expect(await screen.findByText(then)).toBeTruthy();
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
    expect(await screen.findByText("Choosing for new")).toBeTruthy();
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
    expect(await screen.findByText("Choosing for new")).toBeTruthy();
  });

  test("of several makes a piece of each, tells which were refused, and the shelf stays", async () => {
    on("POST /api/pieces", { id: "new", revision: 1, document: {} });
    on("POST /api/models", () => ({ status: 422, json: { message: "pot.stl is not a mesh." } }));
    await shelf();
    const files = ["a.png", "pot.stl", "b.png"].map((name) => new File(["x"], name));
    await act(async () => fireEvent.change(screen.getByLabelText("Picture or model file"), { target: { files } }));
    expect((await screen.findByRole("alert")).textContent).toContain("pot.stl is not a mesh.");
    expect(askedOf("POST /api/pieces")).toHaveLength(2);
    expect([...(useShelfStore.getState().chosen ?? [])]).toEqual(["new"]);
    await waitFor(() => expect(askedOf("GET /api/pieces")).toHaveLength(2));
  });

  test("that is pasted starts a piece", async () => {
    on("POST /api/pieces", { id: "new", revision: 1, document: {} });
    await shelf();
    const event = Object.assign(new Event("paste", { bubbles: true, cancelable: true }), { clipboardData: { files: [new File(["x"], "image.png")] } });
    act(() => void window.dispatchEvent(event));
    expect(await screen.findByText("Choosing for new")).toBeTruthy();
    expect(event.defaultPrevented).toBe(true);
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

describe("a new sheet", () => {
  const begin = async (fields: Record<string, string>) => {
    await shelf();
    await act(async () => fireEvent.click(screen.getByRole("button", { name: "New sheet" })));
    for (const [label, value] of Object.entries(fields)) fireEvent.change(screen.getByLabelText(label), { target: { value } });
  };
  const press = () => act(async () => fireEvent.click(screen.getByRole("button", { name: "Begin" })));

  test("of a typed size, ground and words is begun, and its lettering opened", async () => {
    on("POST /api/sheets", { id: "sheet", revision: 1, document: { ops: [{ kind: "lettering", id: "lettering-1" }] } });
    await begin({ "Width, mm": "18 cm", "Height, mm": "50", "Lettering, if any": "Fern 12" });
    fireEvent.click(screen.getByRole("radio", { name: "Gray" }));
    await press();
    expect(await screen.findByText("Opened sheet")).toBeTruthy();
    expect(askedOf("POST /api/sheets")).toEqual([
      { width_mm: 180, height_mm: 50, ground: 0.5, title: "Fern 12", text: "Fern 12", font: "bold", text_height_mm: null, text_tone: 1 },
    ]);
    expect(useBenchStore.getState()).toMatchObject({ station: "picture", opId: "lettering-1" });
  });

  test("on white is lettered in black; a blank one has no ground", async () => {
    on("POST /api/sheets", () => ({ status: 422, json: { message: "A blank sheet has nothing to be made of." } }));
    await begin({});
    fireEvent.click(screen.getByRole("radio", { name: "White" }));
    await press();
    fireEvent.click(screen.getByRole("radio", { name: "Blank" }));
    await press();
    expect(askedOf("POST /api/sheets")).toMatchObject([{ ground: 1, text_tone: 0 }, { ground: null, text_tone: 1 }]);
    expect(within(screen.getByRole("dialog")).getByRole("alert").textContent).toContain("nothing to be made of");
  });

  test("without a width is not asked for", async () => {
    await begin({ "Width, mm": "wide" });
    await press();
    expect(within(screen.getByRole("dialog")).getByRole("alert").textContent).toContain("lengths like 180");
    expect(askedOf("POST /api/sheets")).toHaveLength(0);
  });
});

describe("many pieces", () => {
  const many = async () => {
    on("GET /api/pieces", [
      { ...card("p1", "Hillside fern"), tags: ["garden"] },
      { ...card("p2", "Acorn"), body: "Clay cutter", tags: ["garden", "sold"] },
      { ...card("p3", "Moon globe"), body: "Lithophane, sphere" },
    ]);
    await shelf();
    await screen.findByRole("link", { name: /^Moon globe/ });
  };
  const titles = () => screen.getAllByRole("link", { name: /mm/ }).map((link) => link.querySelector(".tile-title")?.textContent);
  beforeEach(() => useShelfStore.setState({ words: "", tag: null, order: "changed", chosen: null }));

  test("are found by words of what they are, and by tags", async () => {
    await many();
    fireEvent.change(screen.getByLabelText("Look for pieces"), { target: { value: "garden cutter" } });
    expect(titles()).toEqual(["Acorn"]);
    fireEvent.change(screen.getByLabelText("Look for pieces"), { target: { value: "" } });
    fireEvent.click(screen.getByRole("button", { name: "garden 2" }));
    expect(titles()).toEqual(["Hillside fern", "Acorn"]);
    fireEvent.change(screen.getByLabelText("Look for pieces"), { target: { value: "moon" } });
    expect(screen.getByText("No piece has these words or this tag.")).toBeTruthy();
  });

  test("are put in order by title and by kind", async () => {
    await many();
    fireEvent.change(screen.getByLabelText("Order"), { target: { value: "title" } });
    expect(titles()).toEqual(["Acorn", "Hillside fern", "Moon globe"]);
    fireEvent.change(screen.getByLabelText("Order"), { target: { value: "kind" } });
    expect(titles()).toEqual(["Acorn", "Moon globe", "Hillside fern"]);
  });

  const choose = async (...names: string[]) => {
    await many();
    fireEvent.click(screen.getByRole("button", { name: "Choose several" }));
    for (const name of names) fireEvent.click(screen.getByRole("checkbox", { name: `Choose ${name}` }));
  };
  const work = (name: string) => act(async () => fireEvent.click(within(screen.getByRole("toolbar")).getByRole("button", { name })));

  test("that are chosen are duplicated, built and taken off one after the other", async () => {
    for (const id of ["p1", "p2"]) {
      on(`POST /api/pieces/${id}/copy`, {});
      on(`POST /api/pieces/${id}/build`, {});
      on(`DELETE /api/pieces/${id}`, {});
    }
    await choose("Hillside fern", "Acorn");
    expect(screen.getByText("2 chosen")).toBeTruthy();
    await work("Duplicate");
    await work("Build for delivery");
    await work("Take off the shelf");
    const sent = asked.map(({ what }) => what).filter((what) => !what.startsWith("GET"));
    expect(sent).toEqual(["copy", "build"].flatMap((what) => [`POST /api/pieces/p1/${what}`, `POST /api/pieces/p2/${what}`]).concat("DELETE /api/pieces/p1", "DELETE /api/pieces/p2"));
    expect(screen.getByText("0 chosen")).toBeTruthy();
  });

  test("that are chosen get a tag, or lose the one that all have", async () => {
    on("PUT /api/pieces/p1/tags", {});
    on("PUT /api/pieces/p2/tags", {});
    await choose("Hillside fern", "Acorn");
    fireEvent.change(screen.getByLabelText("Tag"), { target: { value: "sold" } });
    await work("Tag them");
    fireEvent.change(screen.getByLabelText("Tag"), { target: { value: "garden" } });
    await work("Take the tag off");
    expect(askedOf("PUT /api/pieces/p1/tags")).toEqual([{ tags: ["garden", "sold"] }, { tags: [] }]);
    expect(askedOf("PUT /api/pieces/p2/tags")).toEqual([{ tags: ["garden", "sold"] }, { tags: ["sold"] }]);
  });

  test("that are chosen are put together as a piece, which is opened", async () => {
    on("POST /api/assemblies", { id: "plate", revision: 1, document: {} });
    await choose("Hillside fern", "Moon globe");
    await work("Put together");
    expect(await screen.findByText("Opened plate")).toBeTruthy();
    expect(askedOf("POST /api/assemblies")).toEqual([{ pieces: ["p1", "p3"] }]);
  });

  test("that are chosen are laid on one bed, so many of each, and saved once that is done", async () => {
    const saved = vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(() => undefined);
    const plate = { file_key: "k", file_name: "plate.3mf", sound: true, report: { bed_mm: [180, 220], gap_mm: 4, used_mm: [120, 80], pieces: [{}, {}, {}] } };
    const job = { id: "j9", piece_id: "p1", kind: "plate", state: "done", revision: 2, stage: "", fraction: 1, message: "", plate };
    on("POST /api/plates", job);
    on("GET /api/jobs?piece_id=p1", [job]);
    await choose("Hillside fern", "Acorn");
    await work("Print on one bed");
    fireEvent.change(screen.getByLabelText("How many of Acorn"), { target: { value: "2" } });
    fireEvent.change(screen.getByLabelText("Bed, width"), { target: { value: "180" } });
    fireEvent.keyDown(screen.getByLabelText("Bed, width"), { key: "Enter" });
    await act(async () => fireEvent.click(screen.getByRole("button", { name: "Lay 3 pieces and save 3MF" })));
    expect(askedOf("POST /api/plates")).toEqual([{ items: [{ piece_id: "p1", copies: 1 }, { piece_id: "p2", copies: 2 }], bed_mm: [180, 220], gap_mm: 4 }]);
    expect((await screen.findByTestId("plate-done")).textContent).toContain("3 pieces on 120.0 × 80.0 mm");
    expect(saved).toHaveBeenCalledTimes(1);
    saved.mockRestore();
  });

  test("that are chosen follow one recipe, each from where it is", async () => {
    on("GET /api/recipes", [{ key: "ready-4", name: "Coin", makes: "Relief panel", ready: true, fits: false }]);
    for (const id of ["p1", "p2"]) on(`POST /api/pieces/${id}/recipe`, {});
    await choose("Hillside fern", "Acorn");
    await work("By a recipe");
    await act(async () => fireEvent.click(await screen.findByRole("button", { name: /^Coin/ })));
    expect(askedOf("POST /api/pieces/p1/recipe")).toEqual([{ base: 2, key: "ready-4" }]);
    expect(askedOf("POST /api/pieces/p2/recipe")).toEqual([{ base: 2, key: "ready-4" }]);
  });

  test("that are chosen are saved in one ZIP, and what could not be made is told", async () => {
    const saved = vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(() => undefined);
    const parcel = { file_key: "k", file_name: "1-pieces.zip", done: 1, unsound: 0, refused: ["Acorn: every pixel has the same tone."] };
    const job = { id: "j8", piece_id: "p1", kind: "parcel", state: "done", revision: 2, stage: "", fraction: 1, message: "", parcel };
    on("POST /api/parcels", job);
    on("GET /api/jobs?piece_id=p1", [job]);
    await choose("Hillside fern", "Acorn");
    await work("Save all in one ZIP");
    await act(async () => fireEvent.click(screen.getByRole("button", { name: "Build and save ZIP" })));
    expect(askedOf("POST /api/parcels")).toEqual([{ piece_ids: ["p1", "p2"] }]);
    expect((await screen.findByTestId("parcel-done")).textContent).toBe("1-pieces.zip: 1 of 2 done, each proved sound.");
    expect(screen.getByText("Acorn: every pixel has the same tone.")).toBeTruthy();
    expect(saved).toHaveBeenCalledTimes(1);
    saved.mockRestore();
  });

  test("of which one is refused are told of by name, and the others done", async () => {
    on("POST /api/pieces/p1/build", () => ({ status: 409, json: { message: "It is being built already." } }));
    on("POST /api/pieces/p2/build", {});
    await choose("Hillside fern", "Acorn");
    await work("Build for delivery");
    expect((await screen.findByRole("alert")).textContent).toContain("Hillside fern: It is being built already.");
    expect(askedOf("POST /api/pieces/p2/build")).toHaveLength(1);
  });
});

test("an empty shelf begins a guided piece on the real bench", async () => {
  on("GET /api/pieces", []);
  on("POST /api/sheets", { id: "first", revision: 1, document: {} });
  await shelf();
  await act(async () => fireEvent.click(await screen.findByRole("button", { name: /Show me, in two minutes/ })));
  expect(await screen.findByText("Opened first")).toBeTruthy();
  expect(useGuideStore.getState().pieceId).toBe("first");
});
