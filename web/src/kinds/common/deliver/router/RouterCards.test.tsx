// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../../../../testing/server";
import { act, cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { AnyDocument, JobView } from "../../../../api/client";
import { useBenchStore } from "../../../../state/benchStore";
import { useCarveStore } from "../../../../state/carveStore";
import { freshClient, onPage } from "../../../../testing/page";
import { begun, editing, keep, kept, part } from "../../../../testing/stations";
import { MakerCard } from "./MakerCard";
import { RouterCards } from "./RouterCards";

const BALL = part("BitPart");
const FLAT = part("BitPart", { name: "6 mm flat", role: "rough", kind: "flat" });
const TAPER = part("BitPart", { name: "Tapered ball R0.5", kind: "taper" });
const CARVING = part("CarvingPart", {
  on: true, router: part("RouterPart"), stock: part("StockPart"), passes: part("PassesPart"), cut_out: part("CutOutPart"), post: part("PostPart"), bits: [FLAT, BALL],
});
const FACTS = {
  gouge_max_mm: 0.0004, left_max_mm: 2.43, left_rms_mm: 0.025, left_over_reachable_max_mm: 0.0187, cannot_reach_max_mm: 2.4, rapids_in_stock: 0, steep_entries: 0, minutes: 48.2,
};
const CARVED = {
  view_key: "v", file_key: "f", sheet_key: "s", file_name: "fern-carving.zip", facts: FACTS, faults: [],
  passes: [{ kind: "finish", bit: "ball 6 mm", points: 10, length_m: 2, minutes: 45, lifts: 1, left_share: 0.024 }],
  programs: [{ name: "fern-1-finish-ball6.nc", key: "k", minutes: 45 }],
};
const job = (more: Partial<JobView> = {}) =>
  ({ id: "c1", piece_id: "p1", kind: "carving", state: "done", revision: 3, stage: "", fraction: 0, message: "", carving: CARVED, ...more }) as unknown as JobView;

const PLAIN = part("PostPart");
const POSTS = [{ id: 1, post: PLAIN }, { id: 2, post: { ...PLAIN, name: "pause", bit_change: "pause" } }];
const IDLE = { state: "idle", program: "", job_id: "", number: 0, line: 0, lines: 0, place_mm: [0, 0, 0], seconds: 0, why: "" };
const RUNS = { ...IDLE, state: "running", program: "fern-1-finish-ball6.nc", job_id: "c1", line: 40, lines: 1200, place_mm: [1, 2, -0.5], seconds: 75 };

beforeEach(() => {
  freshServer();
  on("GET /api/jobs?piece_id=p1", []);
  on("GET /api/bits", [{ id: 1, bit: FLAT }, { id: 2, bit: BALL }, { id: 3, bit: TAPER }]);
  on("POST /api/pieces/p1/reach", { over_mm: 0.05, bits: [{ name: BALL["name"], most_mm: 2.2, share: 0.232 }], together: { name: "all", most_mm: 2.2, share: 0.232 } });
  on("POST /api/pieces/p1/reach/fixes", []);
  on("GET /api/posts", POSTS);
  on("GET /api/router", IDLE);
  on("GET /api/jobs/c1/carving", { minutes: [0, 20, 48.2], stock: [-15, -13, 120, 140], zero: [-15, -13, 0], ways: [] });
  useBenchStore.setState({ unit: "mm", station: "deliver" });
  useCarveStore.setState({ shown: "stock", step: null, ways: true });
});
afterEach(() => {
  cleanup();
  keep.mockReset();
});

function cards(carving: object = CARVING, jobs: JobView[] = [], sinks = false) {
  on("GET /api/jobs?piece_id=p1", jobs);
  const document = begun("PanelDocument", { maker: part("PrinterMaker"), carving }) as unknown as AnyDocument;
  const props = { pieceId: "p1", revision: 3, document, editing };
  render(
    <MakerCard document={document} editing={editing}>
      <RouterCards {...props} sinks={sinks} />
    </MakerCard>,
    { wrapper: onPage(freshClient()) },
  );
}

test("a piece becomes one for the router, and back, in a press", () => {
  cards({ ...CARVING, on: false });
  expect(screen.queryByText("Stock")).toBeNull();
  fireEvent.click(screen.getByRole("radio", { name: "Yard router" }));
  expect(kept()).toEqual(["For Yard router", { carving: { on: true } }]);
  cleanup();
  cards();
  fireEvent.click(screen.getByRole("radio", { name: "Workshop printer" }));
  expect(kept()).toEqual(["For Workshop printer", { carving: { on: false } }]);
});

test("a finer bit is taken from the rack behind the coarser one, and what each leaves is told", async () => {
  cards();
  expect((await screen.findByTestId("reach")).textContent).toContain("more than 0.05 mm on 23 % of the surface");
  fireEvent.click(await screen.findByRole("button", { name: "Take Tapered ball R0.5" }));
  expect(kept()).toEqual(["With Tapered ball R0.5", { carving: { bits: [FLAT, BALL, TAPER] } }]);
  fireEvent.click(screen.getByRole("button", { name: "Put 6 mm flat back" }));
  expect(kept()).toEqual(["Without 6 mm flat", { carving: { bits: [BALL] } }]);
});

test("a changed bit may be kept in the rack, under its name", async () => {
  const changed = { ...BALL, feed_mm_min: 900 };
  on("PUT /api/bits/2", { id: 2, bit: changed });
  cards({ ...CARVING, bits: [FLAT, changed] });
  await screen.findByRole("button", { name: "Take Tapered ball R0.5" });
  fireEvent.click(screen.getByRole("button", { name: "Change 6 mm ball" }));
  await act(async () => fireEvent.click(screen.getByRole("button", { name: "Keep it in the rack" })));
  expect(askedOf("PUT /api/bits/2")).toEqual([changed]);
});

test("it is planned in a press, and how far it is can be seen and cancelled", async () => {
  on("POST /api/pieces/p1/carve", job({ state: "running", stage: "Finishing", fraction: 0.4, carving: null }));
  cards();
  await act(async () => fireEvent.click(screen.getByRole("button", { name: "Plan and prove the carving" })));
  expect((await screen.findByTestId("carve-stage")).textContent).toBe("Finishing …");
  expect(screen.getByText("40 %")).toBeTruthy();
  expect(screen.getByRole("button", { name: "Cancel" })).toBeTruthy();
});

test("what was measured is told, programs are offered, and the slider goes through the work", async () => {
  cards(CARVING, [job()]);
  expect((await screen.findByTestId("carved")).textContent).toContain("0.4 µm at most");
  expect(screen.getByText("ball 6 mm, then too much on 2.4 %")).toBeTruthy();
  expect(screen.getByRole("link", { name: "fern-1-finish-ball6.nc" }).getAttribute("href")).toBe("/api/jobs/c1/programs/0");
  expect(screen.getByRole("link", { name: "Set-up sheet (PDF)" })).toBeTruthy();
  const slider = await screen.findByLabelText("Time of the cutting");
  expect(screen.getByTestId("carve-time").textContent).toBe("48 min");
  fireEvent.change(slider, { target: { value: "1" } });
  await waitFor(() => expect(screen.getByTestId("carve-time").textContent).toBe("20 min"));
  expect(useCarveStore.getState().step).toBe(1);
  fireEvent.click(screen.getByRole("radio", { name: "Left" }));
  expect(useCarveStore.getState().shown).toBe("left");
});

test("a job with faults offers nothing and says why", async () => {
  cards(CARVING, [job({ carving: { ...CARVED, programs: [], faults: ["Line 7: a rapid goes 0.300 mm into stock."] } } as Partial<JobView>)]);
  expect((await screen.findByRole("alert")).textContent).toContain("Line 7: a rapid goes 0.300 mm into stock.");
  expect(screen.queryByRole("link")).toBeNull();
});

test("what would let bits reach more is offered with what was measured, and fixed in a press", async () => {
  const change = { carving: { bits: [FLAT, BALL, TAPER] } };
  on("POST /api/pieces/p1/reach/fixes", [
    { words: "Take Tapered ball R0.5", change, most_mm: 0.4, share: 0.011, moved_rms_mm: 0 },
    { words: "Blur the picture by 0.38 mm", change: { ops: [] }, most_mm: 1.1, share: 0.09, moved_rms_mm: 0.12 },
  ]);
  cards();
  const told = await screen.findAllByTestId("reach-fix");
  expect(told.map((each) => each.querySelector("span")?.textContent)).toEqual([
    "Take Tapered ball R0.5: then 1.1 %, up to 0.40 mm.",
    "Blur the picture by 0.38 mm: then 9 %, up to 1.10 mm; the surface itself moves by 0.12 mm (RMS).",
  ]);
  fireEvent.click(screen.getByRole("button", { name: "Fix: Take Tapered ball R0.5" }));
  expect(kept()).toEqual(["Take Tapered ball R0.5", change]);
});

test("only pieces of outlines may be sunk, and then what counts for surfaces is gone", () => {
  cards();
  expect(screen.queryByRole("radio", { name: "V-carved" })).toBeNull();
  cleanup();
  cards(CARVING, [], true);
  fireEvent.click(screen.getByRole("radio", { name: "V-carved" }));
  expect(kept()).toEqual(["Outlines are v-carved", { carving: { outlines: { way: "v" } } }]);
  expect(screen.getByText("Cut-out")).toBeTruthy();
  cleanup();
  cards({ ...CARVING, outlines: part("SunkPart", { way: "v" }) }, [], true);
  expect(screen.getByLabelText("Deepest")).toBeTruthy();
  expect(screen.queryByLabelText("Ridges between lines")).toBeNull();
  expect(screen.queryByText("Cut-out")).toBeNull();
});

test("a kept way of writing programs is taken, and an own one kept under its name", async () => {
  on("POST /api/posts", { id: 3, post: PLAIN });
  cards({ ...CARVING, post: { ...PLAIN, decimals_mm: 3 } });
  fireEvent.click(screen.getAllByRole("button", { name: "Show and change" }).at(-1) as HTMLElement);
  fireEvent.click(await screen.findByRole("button", { name: "Take pause" }));
  expect(kept()).toEqual(["Programs as pause", { carving: { post: { ...PLAIN, name: "pause", bit_change: "pause" } } }]);
  fireEvent.change(screen.getByLabelText("Name of this way"), { target: { value: "Yard" } });
  await act(async () => fireEvent.click(screen.getByRole("button", { name: "Keep it" })));
  expect(askedOf("POST /api/posts")).toEqual([{ ...PLAIN, decimals_mm: 3, name: "Yard" }]);
});

test("a program is sent, held, gone on with and stopped", async () => {
  on("POST /api/jobs/c1/programs/0/send", RUNS);
  on("POST /api/router/hold", { ...RUNS, state: "held" });
  on("POST /api/router/resume", RUNS);
  on("POST /api/router/stop", { ...RUNS, state: "stopped" });
  cards(CARVING, [job()]);
  const press = (name: string) => act(async () => fireEvent.click(screen.getByRole("button", { name })));
  fireEvent.click(await screen.findByRole("radio", { name: "× 100" }));
  on("GET /api/router", RUNS);
  await press("Send it line by line");
  expect(askedOf("POST /api/jobs/c1/programs/0/send")).toEqual([{ speed: 100 }]);
  expect((await screen.findByTestId("router-standing")).textContent).toContain("Line 40 of 1,200, 1.3 min, at 1.00, 2.00, -0.50 mm");
  on("GET /api/router", { ...RUNS, state: "held" });
  await press("Hold");
  expect(await screen.findByText(/It is held with/)).toBeTruthy();
  on("GET /api/router", RUNS);
  await press("Go on");
  on("GET /api/router", { ...RUNS, state: "stopped" });
  await press("Stop");
  expect(await screen.findByRole("button", { name: "Send it line by line" })).toBeTruthy();
  expect(screen.getByTestId("router-standing").textContent).toContain("It was stopped in");
});

test("what the router refuses is told in its words, and a busy one says so", async () => {
  on("GET /api/router", { ...RUNS, state: "refused", why: "Line 6: G77 is not known here." });
  on("POST /api/jobs/c1/programs/0/send", () => ({ status: 409, json: { message: "The router is busy with other.nc; stop that first." } }));
  cards(CARVING, [job()]);
  expect((await screen.findByText("Line 6: G77 is not known here.")).getAttribute("role")).toBe("alert");
  await act(async () => fireEvent.click(screen.getByRole("button", { name: "Send it line by line" })));
  expect(await screen.findByText("The router is busy with other.nc; stop that first.")).toBeTruthy();
});
