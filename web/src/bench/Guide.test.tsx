// @vitest-environment happy-dom
import { freshServer, on } from "../testing/server";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { PieceView } from "../api/client";
import { useBenchStore } from "../state/benchStore";
import { useGuideStore } from "../state/guideStore";
import { freshClient, onPage } from "../testing/page";
import { Guide } from "./Guide";

const piece = (document: object, revision = 2) => ({ id: "first", revision, document }) as unknown as PieceView;
const SHEET = {
  ops: [{ kind: "lettering", id: "l", on: true, text: "Fernhollow" }],
  height: { rule: { steps: [{ tone: 0, mm: 0 }, { tone: 1, mm: 3 }] } },
  body: { shape: "rectangle" },
};
const LETTERED = { ...SHEET, ops: [{ ...SHEET.ops[0], text: "Alder" }] };
const LOW = { ...LETTERED, height: { rule: { steps: [{ tone: 0, mm: 0 }, { tone: 1, mm: 2 }] } } };
const ROUNDED = { ...LOW, body: { shape: "rounded" } };

beforeEach(() => {
  freshServer();
  on("GET /api/jobs?piece_id=first", []);
  useGuideStore.setState({ pieceId: "first" });
  useBenchStore.setState({ station: "picture" });
});
afterEach(cleanup);

test.each([
  ["1 of 4", "Lettering", SHEET],
  ["2 of 4", "Height", LETTERED],
  ["3 of 4", "Body", LOW],
  ["4 of 4", "Build and save", ROUNDED],
])("step %s tells of %s once those before it are done", (count, words, document) => {
  render(<Guide piece={piece(document)} />, { wrapper: onPage() });
  const guide = screen.getByRole("status", { name: "First piece" });
  expect(guide.textContent).toContain(count);
  expect(guide.textContent).toContain(words);
});

test("it leads to the station of its step, and only where one is not there already", () => {
  render(<Guide piece={piece(LETTERED)} />, { wrapper: onPage() });
  fireEvent.click(screen.getByRole("button", { name: "Take me there" }));
  expect(useBenchStore.getState().station).toBe("height");
  expect(screen.queryByRole("button", { name: "Take me there" })).toBeNull();
});

test("it says when all is done, and goes away", async () => {
  on("GET /api/jobs?piece_id=first", [{ id: "j", kind: "build", state: "done", revision: 2, piece_id: "first", created: "2026-01-01T00:00:00Z", result: { report: {} } }]);
  render(<Guide piece={piece(ROUNDED)} />, { wrapper: onPage(freshClient()) });
  expect(await screen.findByText("Done")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Close" }));
  expect(screen.queryByRole("status")).toBeNull();
});

test("other pieces are not guided, and one may go on alone", () => {
  const { rerender } = render(<Guide piece={{ ...piece(SHEET), id: "other" }} />, { wrapper: onPage() });
  expect(screen.queryByRole("status")).toBeNull();
  rerender(<Guide piece={piece(SHEET)} />);
  fireEvent.click(screen.getByRole("button", { name: "I go on alone" }));
  expect(useGuideStore.getState().pieceId).toBeNull();
});
