// @vitest-environment happy-dom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { freshServer, on } from "../../../testing/server";
import { part, show } from "../../../testing/stations";
import { ServiceAsk } from "./ServiceAsk";

const TERMS = { name: "Far mill", simulated: false, cost: 3, cost_unit: "credits", problem: "" };
const DEPTHS = { blob: "d".repeat(64), name: "Far mill", span_mm: 21.5, cost: 3, cost_unit: "credits" };
const job = (change: object) => ({
  id: "j1", kind: "service", piece_id: "p1", revision: 1, state: "running", stage: "Waiting at the service, 2 before it", fraction: 0.25, message: "",
  created: "2026-11-27T10:00:00", result: null, picture: null, depths: null, ...change,
});
const take = vi.fn();

beforeEach(() => {
  freshServer();
  on("GET /api/depth-service", () => ({ json: TERMS }));
  on("GET /api/jobs?piece_id=p1", () => ({ json: [] }));
});
afterEach(() => {
  cleanup();
  take.mockReset();
});

const card = (depth: Record<string, unknown> = {}) => show(<ServiceAsk pieceId="p1" depth={part("FigureDepth", depth) as never} onTake={take} />, "figure");

test("says what is sent to whom, and what it costs, before it is asked", async () => {
  const asked: unknown[] = [];
  on("POST /api/pieces/p1/ask-service", (body) => {
    asked.push(body);
    return { json: job({ state: "waiting" }) };
  });
  card();
  expect(await screen.findByText("The picture and its cut-out are sent to Far mill.")).toBeTruthy();
  fireEvent.click(screen.getByRole("radio", { name: "It sends a solid" }));
  fireEvent.click(screen.getByRole("button", { name: "Ask it, for 3 credits" }));
  await waitFor(() => expect(asked).toEqual([{ gives: "solid" }]));
});

test("shows its place in the queue, and can be cancelled", async () => {
  on("GET /api/jobs?piece_id=p1", () => ({ json: [job({})] }));
  const cancelled = vi.fn();
  on("POST /api/jobs/j1/cancel", () => {
    cancelled();
    return { json: job({ state: "cancelled" }) };
  });
  card();
  expect((await screen.findByTestId("service-stage")).textContent).toContain("2 before it");
  expect(screen.getByText("25 %")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Cancel" }));
  await waitFor(() => expect(cancelled).toHaveBeenCalledOnce());
});

test("tells why it failed, and is tried again", async () => {
  on("GET /api/jobs?piece_id=p1", () => ({ json: [job({ state: "failed", message: "The service failed. It was switched off. Ask again; that costs nothing." })] }));
  card();
  expect((await screen.findByRole("alert")).textContent).toContain("It was switched off.");
  expect(screen.getByRole("button", { name: "Try again" })).toBeTruthy();
});

test("what an earlier visit asked for waits to be used", async () => {
  on("GET /api/jobs?piece_id=p1", () => ({ json: [job({ state: "done", depths: DEPTHS })] }));
  card();
  expect((await screen.findByTestId("service-made")).textContent).toContain("Made by Far mill for 3 credits.");
  expect(take).not.toHaveBeenCalled();
  fireEvent.click(screen.getByRole("button", { name: "Use it" }));
  expect(take).toHaveBeenCalledWith({ blob: DEPTHS.blob, name: "Far mill", span_mm: 21.5 });
});

test("what is used already is not offered again", async () => {
  on("GET /api/jobs?piece_id=p1", () => ({ json: [job({ state: "done", depths: DEPTHS })] }));
  card({ kind: "service", blob: DEPTHS.blob });
  expect(await screen.findByTestId("service-made")).toBeTruthy();
  expect(screen.queryByRole("button", { name: "Use it" })).toBeNull();
});

test("what was asked for here is taken as soon as it is there", async () => {
  on("POST /api/pieces/p1/ask-service", () => ({ json: job({ state: "done", depths: DEPTHS }) }));
  card();
  fireEvent.click(await screen.findByRole("button", { name: "Ask it, for 3 credits" }));
  await waitFor(() => expect(take).toHaveBeenCalledWith({ blob: DEPTHS.blob, name: "Far mill", span_mm: 21.5 }));
  expect(take).toHaveBeenCalledOnce();
});

test("a service that cannot be reached cannot be asked", async () => {
  on("GET /api/depth-service", () => ({ json: { ...TERMS, problem: "The service does not answer at http://mill.example." } }));
  card();
  expect((await screen.findByRole("alert")).textContent).toContain("does not answer");
  expect(screen.getByRole<HTMLButtonElement>("button", { name: /Ask it/ }).disabled).toBe(true);
});

test("the stand-in is called what it is", async () => {
  on("GET /api/depth-service", () => ({ json: { ...TERMS, simulated: true } }));
  card();
  expect(await screen.findByText(/a simulated one on this machine stands in/)).toBeTruthy();
});
