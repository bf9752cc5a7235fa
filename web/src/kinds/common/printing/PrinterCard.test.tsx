// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../../../testing/server";
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { JobView } from "../../../api/client";
import { freshClient, onPage } from "../../../testing/page";
import { PrinterCard } from "./PrinterCard";

const DONE = { id: "j1", state: "done" } as unknown as JobView;
const print = (state: string, more: object = {}) => ({ id: "a1", name: "fern.3mf", state, position: 0, layer: 31, layers: 120, fraction: 0.25, minutes_left: 38.5, grams: 20, colours: 1, reason: "", ...more });
const standing = (...prints: object[]) => ({ name: "Workshop printer", bed_mm: [220, 220, 240], slots: 4, state: "printing", prints });

beforeEach(() => {
  freshServer();
  on("GET /api/printer", standing());
});
afterEach(cleanup);

const card = (done?: JobView) => render(<PrinterCard done={done} />, { wrapper: onPage(freshClient()) });

test("nothing is asked of the printer, and nothing sent, before a person wants it", () => {
  card();
  expect(screen.getByRole<HTMLButtonElement>("button", { name: /Send the file/ }).disabled).toBe(true);
  expect(askedOf("GET /api/printer")).toEqual([]);
});

test("the built file is sent, and its print paused", async () => {
  on("POST /api/jobs/j1/print", print("printing"));
  on("GET /api/printer", standing(print("printing")));
  on("POST /api/printer/prints/a1/pause", print("paused"));
  card(DONE);
  await act(async () => fireEvent.click(screen.getByRole("button", { name: /Send the file/ })));
  const item = await screen.findByRole("listitem", { name: "fern.3mf" });
  expect(item.textContent).toContain("Layer 31 of 120, about 39 min left.");
  await act(async () => fireEvent.click(screen.getByRole("button", { name: "Pause" })));
  expect(askedOf("POST /api/printer/prints/a1/pause")).toHaveLength(1);
});

test.each([
  ["jammed", ["Retry", "Cancel"], { reason: "The filament stopped moving." }],
  ["paused", ["Go on", "Cancel"], {}],
  ["waiting", ["Cancel"], { position: 2 }],
  ["done", [], {}],
])("a print that is %s can be told what fits", async (state, words, more) => {
  on("GET /api/printer", standing(print(state, more)));
  card();
  fireEvent.click(screen.getByRole("button", { name: "What it does" }));
  const item = await screen.findByRole("listitem", { name: "fern.3mf" });
  expect([...item.querySelectorAll("button")].map((each) => each.textContent)).toEqual(words);
  if (state === "jammed") expect(screen.getByRole("alert").textContent).toContain("stopped moving");
  if (state === "waiting") expect(item.textContent).toContain("2 before it");
});

test("what the printer refuses is said", async () => {
  on("POST /api/jobs/j1/print", () => ({ status: 422, json: { message: "It is 300.0 mm, more than the bed." } }));
  card(DONE);
  await act(async () => fireEvent.click(screen.getByRole("button", { name: /Send the file/ })));
  expect((await screen.findByRole("alert")).textContent).toContain("more than the bed");
});
