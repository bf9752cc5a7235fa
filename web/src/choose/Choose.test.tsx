// @vitest-environment happy-dom
import { askedOf, freshServer, later, on } from "../testing/server";
import { QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { MemoryRouter, Route, Routes } from "react-router";
import { afterEach, beforeEach, expect, test } from "vitest";
import { useBenchStore } from "../state/benchStore";
import { freshClient } from "../testing/page";
import { Choose } from "./Choose";

const PIECE = { id: "p1", revision: 7, kind: "panel", document: { title: "Old photograph" }, stations: [{ name: "picture", title: "Picture", begins: false }] };
const TILE = { size_mm: [80.2, 60.4, 4.2], picture: "data:image/png;base64,AA", word: "Nothing stands out.", advice: "" };
const CHOICES = [
  { name: "panel", title: "Relief panel", now: true, remembered: false },
  { name: "held-back", title: "Held-back relief", now: false, remembered: false },
  { name: "lithophane", title: "Lithophane", now: false, remembered: true },
];

beforeEach(() => {
  freshServer();
  on("GET /api/pieces/p1", PIECE);
  on("GET /api/pieces/p1/choices", CHOICES);
  for (const { name } of CHOICES) on(`GET /api/pieces/p1/choices/${name}`, TILE);
  on("GET /api/recipes?piece_id=p1", [
    { key: "ready-0", name: "Night-light", makes: "Lithophane", ready: true, fits: true },
    { key: "3", name: "Own coin", makes: "Relief panel", ready: false, fits: true },
    { key: "4", name: "For a model", makes: "Model", ready: false, fits: false },
  ]);
});
afterEach(cleanup);

async function choosing() {
  render(
    <QueryClientProvider client={freshClient()}>
      <MemoryRouter initialEntries={["/piece/p1/choose"]}>
        <Routes>
          <Route path="/piece/:pieceId/choose" element={<Choose />} />
          <Route path="/piece/:pieceId" element={<p>The bench</p>} />
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  );
  await screen.findByRole("button", { name: /^Lithophane/ });
}

test("tiles fill in one by one, with about their size and what matters most", async () => {
  const slow = later<{ json: unknown }>();
  on("GET /api/pieces/p1/choices/held-back", () => slow.promise);
  await choosing();
  expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("What shall “Old photograph” be?");
  await waitFor(() => expect(screen.getAllByText("about 80 × 60 × 4 mm")).toHaveLength(2));
  expect(screen.getByText("sketching …")).toBeTruthy();
  await act(async () => slow.give({ json: { ...TILE, word: "Brightness is not height.", advice: "A lithophane shows it." } }));
  expect(await screen.findByText("Brightness is not height.")).toBeTruthy();
  expect(screen.getByText("A lithophane shows it.")).toBeTruthy();
});

test("what cannot be made says why, and has no size", async () => {
  on("GET /api/pieces/p1/choices/held-back", { size_mm: [0, 0, 0], picture: "", word: "Every part is too small.", advice: "" });
  await choosing();
  expect(await screen.findByText("Every part is too small.")).toBeTruthy();
  expect(screen.getByText("cannot be made of it")).toBeTruthy();
});

test("what was last made of such pictures is at hand; arrow keys go on from there", async () => {
  await choosing();
  const button = (name: RegExp) => screen.getByRole("button", { name });
  expect(document.activeElement).toBe(button(/^Lithophane/));
  expect(screen.getByText("last time")).toBeTruthy();
  fireEvent.keyDown(button(/^Lithophane/), { key: "ArrowRight" });
  expect(document.activeElement).toBe(button(/^Relief panel/));
  fireEvent.keyDown(button(/^Relief panel/), { key: "ArrowLeft" });
  expect(document.activeElement).toBe(button(/^Lithophane/));
});

test("one is taken, and the work goes on where that begins", async () => {
  on("POST /api/pieces/p1/choice", { ...PIECE, revision: 8, stations: [{ name: "picture", title: "Picture", begins: false }, { name: "light", title: "Light", begins: true }] });
  await choosing();
  await act(async () => fireEvent.click(screen.getByRole("button", { name: /^Lithophane/ })));
  expect(await screen.findByText("The bench")).toBeTruthy();
  expect(askedOf("POST /api/pieces/p1/choice")).toEqual([{ base: 7, name: "lithophane" }]);
  expect(useBenchStore.getState().station).toBe("light");
});

test("a choice that is refused says why and stays", async () => {
  on("POST /api/pieces/p1/choice", () => ({ status: 422, json: { message: "The figure has no outline." } }));
  await choosing();
  await act(async () => fireEvent.click(screen.getByRole("button", { name: /^Lithophane/ })));
  expect((await screen.findByRole("alert")).textContent).toBe("The figure has no outline.");
});

test("Escape goes to the bench as it is", async () => {
  await choosing();
  act(() => void fireEvent.keyDown(window, { key: "Escape" }));
  expect(await screen.findByText("The bench")).toBeTruthy();
  expect(askedOf("POST /api/pieces/p1/choice")).toHaveLength(0);
});

test("recipes that fit are laid on the piece", async () => {
  on("POST /api/pieces/p1/recipe", { ...PIECE, revision: 8 });
  await choosing();
  expect(screen.queryByText("For a model")).toBeNull();
  await act(async () => fireEvent.click(screen.getByRole("button", { name: /^Night-light/ })));
  expect(await screen.findByText("The bench")).toBeTruthy();
  expect(askedOf("POST /api/pieces/p1/recipe")).toEqual([{ base: 7, key: "ready-0" }]);
});

test("settings are kept under a name, saved as a file, and forgotten; ready ones stay", async () => {
  on("POST /api/recipes", { key: "5", name: "Mine", makes: "Relief panel", ready: false, fits: true });
  on("DELETE /api/recipes/3", () => ({ status: 204 }));
  await choosing();
  fireEvent.change(screen.getByLabelText("Name of the recipe"), { target: { value: " Mine " } });
  await act(async () => fireEvent.click(screen.getByRole("button", { name: "Keep" })));
  expect(askedOf("POST /api/recipes")).toEqual([{ piece_id: "p1", name: "Mine" }]);
  expect(screen.getByRole("link", { name: "Save the recipe Own coin as a file" }).getAttribute("href")).toBe("/api/recipes/3/file");
  expect(screen.queryByRole("button", { name: "Forget the recipe Night-light" })).toBeNull();
  await act(async () => fireEvent.click(screen.getByRole("button", { name: "Forget the recipe Own coin" })));
  expect(askedOf("DELETE /api/recipes/3")).toHaveLength(1);
});

test("a file that is no recipe is refused before it is sent; one that is, is sent whole", async () => {
  on("POST /api/recipe-files", { key: "6", name: "Brought", makes: "Stamp", ready: false, fits: true });
  await choosing();
  const bring = (text: string) => act(async () => fireEvent.change(screen.getByLabelText("Recipe file"), { target: { files: [new File([text], "mine.json")] } }));
  await bring("not JSON");
  expect((await screen.findByRole("alert")).textContent).toContain("mine.json is no recipe");
  expect(askedOf("POST /api/recipe-files")).toHaveLength(0);
  await bring('{"recipe": 1, "name": "Brought"}');
  await waitFor(() => expect(askedOf("POST /api/recipe-files")).toEqual([{ recipe: 1, name: "Brought" }]));
});
