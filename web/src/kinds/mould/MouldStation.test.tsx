// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../../testing/server";
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { MouldDocument } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import { freshClient, onPage } from "../../testing/page";
import { begun, editing, keep, kept, part, type } from "../../testing/stations";
import { MouldStation } from "./MouldStation";

const documentOf = (more: object = {}) =>
  begun("MouldDocument", { mould: part("MouldPart", { source: { kind: "piece", piece_id: "hare", follow: true, document: { title: "Garden hare" } }, ...more }) }) as unknown as MouldDocument;
const station = (more: object = {}) => {
  cleanup();
  render(<MouldStation pieceId="me" revision={3} document={documentOf(more)} editing={editing} />, { wrapper: onPage(freshClient(), "mould") });
};

beforeEach(() => {
  freshServer();
  on("GET /api/pieces", ["me", "hare", "jug"].map((id) => ({ id, title: `The ${id}`, body: "Figure", maker: "", size_mm: [1, 1, 1], changed: "", created: "", tags: [], revision: 1 })));
  useBenchStore.setState({ unit: "mm" });
});
afterEach(() => {
  cleanup();
  keep.mockReset();
});

test("what counts for halves only is offered for halves only", () => {
  station();
  expect(screen.queryByLabelText("Keys are wide")).toBeNull();
  expect(screen.queryByLabelText("The channel is wide")).toBeNull();
  station({ kind: "halves" });
  expect(screen.getByLabelText("Keys are wide")).toBeTruthy();
  expect(screen.getByLabelText("The channel is wide")).toBeTruthy();
  station({ kind: "halves", keys: false, spout: "none" });
  expect(screen.queryByLabelText("Keys are wide")).toBeNull();
  expect(screen.queryByLabelText("The channel is wide")).toBeNull();
  expect(screen.queryByLabelText("At")).toBeNull();
  station({ plane: "typed" });
  expect(screen.getByLabelText("At")).toBeTruthy();
});

test("changes are steps of their own", () => {
  station();
  type("What is cast shrinks by", "2.5");
  expect(kept()[1]).toEqual({ mould: { shrink: 0.025 } });
  fireEvent.click(screen.getByRole("radio", { name: "Die" }));
  expect(kept()[1]).toEqual({ mould: { kind: "die" } });
  fireEvent.click(screen.getByLabelText("Follows its piece"));
  expect(kept()[1]).toEqual({ mould: { source: { follow: false } } });
});

test("another piece of the shelf takes the place of what is cast; a refusal is told", async () => {
  on("GET /api/pieces/me", { id: "me", revision: 3 });
  on("POST /api/pieces/me/parts", () => ({ status: 409, json: { message: "A piece cannot be a part of itself; choose another one." } }));
  station();
  expect(screen.getByText("Garden hare")).toBeTruthy();
  expect(screen.getByRole("link", { name: "Open it" }).getAttribute("href")).toBe("/piece/hare");
  await act(async () => fireEvent.click(screen.getByRole("button", { name: "Cast another piece" })));
  expect(screen.queryByRole("button", { name: /The me/ })).toBeNull();
  expect(screen.queryByRole("button", { name: /The hare/ })).toBeNull();
  await act(async () => fireEvent.click(await screen.findByRole("button", { name: /The jug/ })));
  expect(askedOf("POST /api/pieces/me/parts")).toEqual([{ base: 3, piece_id: "jug" }]);
  expect((await screen.findByRole("alert")).textContent).toContain("part of itself");
});
