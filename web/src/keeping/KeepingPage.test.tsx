// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../testing/server";
import { cleanup, fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { Problem, Storage } from "../api/client";
import { onPage } from "../testing/page";
import { bytes } from "./bytes";
import { KeepingPage } from "./KeepingPage";

const MIB = 2 ** 20;
const STORAGE: Storage = {
  folder: "fernhollow/nebrel",
  parts: [
    { name: "database", files: 3, bytes: 12 * MIB },
    { name: "sources", files: 40, bytes: 300 * MIB },
    { name: "results", files: 9, bytes: 2048 * MIB },
    { name: "copies", files: 7, bytes: 80 * MIB },
    { name: "logs", files: 1, bytes: 900 },
  ],
  removed: 2,
  states: 1200,
  free_bytes: 5000 * MIB,
  copied: null,
};

beforeEach(() => {
  freshServer();
  on("GET /api/storage", STORAGE);
  on("GET /api/problems", []);
});
afterEach(cleanup);

test("bytes are read in the largest unit that leaves a whole number before the point", () => {
  expect([0, 900, 1024, 1536 * 1024, 300 * MIB, 3 * 2 ** 40].map(bytes)).toEqual(["0 bytes", "900 bytes", "1.0 KiB", "1.5 MiB", "300 MiB", "3.0 TiB"]);
});

describe("storage", () => {
  test("is told by kind, with where it is and what is free", async () => {
    render(<KeepingPage />, { wrapper: onPage() });
    const table = await screen.findByRole("table", { name: "What the data folder holds" });
    const told = within(table).getAllByRole("row").map((row) => row.textContent);
    expect(told[2]).toBe("Results, which can be made again2.0 GiB");
    expect(told[5]).toBe("All in fernhollow/nebrel2.4 GiB");
    expect(told[6]).toBe("Free on this disk4.9 GiB");
    expect(screen.getByText(/copied once a day/)).toBeTruthy();
  });

  test.each([
    ["Delete 2 removed pieces", "removed", /cannot be put back/],
    ["Thin out the past", "history", /Of 1,200 states/],
    ["Delete results", "results", /built again/],
  ])("%s is pressed twice, and told what goes", async (words, what, warning) => {
    on(`POST /api/storage/${what}`, { ...STORAGE, removed: 0, copied: new Date().toISOString() });
    render(<KeepingPage />, { wrapper: onPage() });
    fireEvent.click(await screen.findByRole("button", { name: `${words} …` }));
    expect(screen.getByText(warning)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Keep" }));
    expect(screen.queryByText(warning)).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: `${words} …` }));
    expect(askedOf(`POST /api/storage/${what}`)).toHaveLength(0);
    fireEvent.click(screen.getByRole("button", { name: words }));
    await waitFor(() => expect(askedOf(`POST /api/storage/${what}`)).toHaveLength(1));
    expect(await screen.findByText(/copied just now/)).toBeTruthy();
    expect((screen.getByRole("button", { name: "Delete 0 removed pieces …" }) as HTMLButtonElement).disabled).toBe(true);
  });

  test("that cannot be let go of says why", async () => {
    on("POST /api/storage/results", () => ({ status: 507, json: { message: "The disk is full." } }));
    render(<KeepingPage />, { wrapper: onPage() });
    fireEvent.click(await screen.findByRole("button", { name: "Delete results …" }));
    fireEvent.click(screen.getByRole("button", { name: "Delete results" }));
    expect((await screen.findByRole("alert")).textContent).toBe("The disk is full.");
  });
});

describe("problems", () => {
  test("are told in words, the newest first, with a report to save", async () => {
    const problems: Problem[] = [{ when: new Date().toISOString(), what: "The worker process was killed by signal 9.", about: "Build of Hillside fern" }];
    on("GET /api/problems", problems);
    render(<KeepingPage />, { wrapper: onPage() });
    const list = await screen.findByRole("list", { name: "What went wrong" });
    expect(list.textContent).toBe("Build of Hillside fern, just nowThe worker process was killed by signal 9.");
    expect(screen.getByText("Save a report").getAttribute("href")).toBe("/api/problem-report.txt");
  });

  test("that there are none of is said", async () => {
    render(<KeepingPage />, { wrapper: onPage() });
    expect(await screen.findByText("Nothing went wrong of late.")).toBeTruthy();
  });
});
