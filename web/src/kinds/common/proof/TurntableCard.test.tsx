// @vitest-environment happy-dom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import { askedOf, freshServer, on } from "../../../testing/server";
import { show, type } from "../../../testing/stations";
import { TurntableCard } from "./TurntableCard";

const FILM = { file_key: "k", file_name: "owl-turntable.webp", frames: 40, size_px: [800, 600] };
const job = (change: object) => ({
  id: "f1", kind: "turntable", piece_id: "p1", revision: 1, state: "running", stage: "Turning it", fraction: 0.5, message: "",
  created: "2026-11-27T10:00:00", result: null, picture: null, depths: null, film: null, ...change,
});

beforeEach(() => {
  freshServer();
  on("GET /api/jobs?piece_id=p1", []);
});
afterEach(cleanup);

const card = () => show(<TurntableCard pieceId="p1" revision={1} />, "figure");

test("is ordered in a format and for as long as is typed", async () => {
  on("POST /api/pieces/p1/turntable", job({ state: "waiting" }));
  card();
  fireEvent.change(screen.getByLabelText("Format of the film"), { target: { value: "webp" } });
  type("Once round", "2");
  fireEvent.click(screen.getByRole("button", { name: "Film it and save" }));
  await waitFor(() => expect(askedOf("POST /api/pieces/p1/turntable")).toEqual([{ format: "webp", seconds: 2 }]));
});

test("shows how far it is, and what came of it", async () => {
  on("GET /api/jobs?piece_id=p1", [job({})]);
  card();
  expect(await screen.findByText("50 %")).toBeTruthy();
  expect(screen.getByRole("button", { name: "Cancel" })).toBeTruthy();
  on("GET /api/jobs?piece_id=p1", [job({ state: "done", film: FILM })]);
  card();
  expect((await screen.findByRole("button", { name: "owl-turntable.webp" })).parentElement?.textContent).toContain("40 frames of 800 × 600 pixels");
});

test("tells why it failed", async () => {
  on("GET /api/jobs?piece_id=p1", [job({ state: "failed", message: "Nothing is cut out." })]);
  card();
  expect((await screen.findByRole("alert")).textContent).toBe("Nothing is cut out.");
});
