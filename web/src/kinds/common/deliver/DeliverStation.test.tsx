// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../../../testing/server";
import { act, cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { AnyDocument, JobView } from "../../../api/client";
import { keys } from "../../../api/pieces";
import { useBenchStore } from "../../../state/benchStore";
import type { Editing } from "../../../state/useEditing";
import { freshClient, onPage } from "../../../testing/page";
import { part } from "../../../testing/stations";
import { DeliverStation } from "./DeliverStation";

const JOBS = "GET /api/jobs?piece_id=p1";
const LIGHT = { on: false, by: "triangles", triangles: 200_000, tolerance_mm: 0.05, megabytes: 20 };
const MAKER = { name: "Workshop printer", line_width_mm: 0.42, layer_mm: 0.12, bed_mm: [220, 220, 250] };
const MODEL = { title: "Pot", model: {}, steps: [], decorations: [], light: LIGHT, maker: MAKER, carving: { on: false, router: { name: "Yard router" } }, delivery: { format: "3mf" }, paint: { on: false, colour: "#c9b79c" }, printing: part("PrintingPart") } as unknown as AnyDocument;
const REPORT = { size_mm: [80, 60, 5.2], triangles: 123_456, max_error_mm: 0.01234, rms_error_mm: 0.002, max_error_between_mm: 0.0345, error_how: "vertically", error_where: "at samples", volume_mm3: 24_900, file_bytes: 6_172_884, seconds: 2.34, findings: [] };
const job = (id: string, more: Partial<JobView> = {}) =>
  ({ id, piece_id: "p1", kind: "build", state: "done", revision: 3, stage: "", fraction: 0, message: "", created: "2026-01-01T10:00:00Z", result: null, ...more }) as JobView;
const done = job("j1", { result: { file_name: "pot-80x60x5.3mf", report: REPORT } as unknown as JobView["result"] });

const keep = vi.fn<Editing["keep"]>();
const click = vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(() => undefined);

beforeEach(() => {
  freshServer();
  on("GET /api/light-targets", [{ id: 1, name: "For the slicer", by: "triangles", amount: 150_000 }]);
  on(JOBS, []);
  useBenchStore.setState({ unit: "mm" });
});
afterEach(() => {
  cleanup();
  keep.mockReset();
  click.mockClear();
});

async function station(jobs: JobView[] = [], document: AnyDocument = MODEL) {
  const client = freshClient();
  on(JOBS, jobs);
  const page = render(<DeliverStation pieceId="p1" revision={3} document={document} editing={{ keep, drag: vi.fn() }} />, { wrapper: onPage(client) });
  await waitFor(() => expect(client.getQueryData(keys.jobs("p1"))).toEqual(jobs));
  return { client, page };
}

test("a file is built and saved in one press, in the chosen format", async () => {
  on("POST /api/pieces/p1/build", job("j1", { state: "waiting" }));
  const { client } = await station();
  await act(async () => fireEvent.click(screen.getByRole("button", { name: "Build and save 3MF" })));
  expect(askedOf("POST /api/pieces/p1/build")).toHaveLength(1);
  await waitFor(() => expect(screen.getByTestId("job-stage").textContent).toBe("Waiting …"));
  act(() => void client.setQueryData(keys.jobs("p1"), [job("j1", { state: "running", stage: "Triangulating", fraction: 0.42 })]));
  await waitFor(() => expect(screen.getByText("42 %")).toBeTruthy());
  expect(click).not.toHaveBeenCalled();
  act(() => void client.setQueryData(keys.jobs("p1"), [done]));
  await waitFor(() => expect(click).toHaveBeenCalledOnce());
});

test("what is built already is saved again without building", async () => {
  await station([done]);
  fireEvent.click(await screen.findByRole("button", { name: "Save 3MF again" }));
  expect(click).toHaveBeenCalledOnce();
  expect(askedOf("POST /api/pieces/p1/build")).toEqual([]);
});

test("what a build measured is told in the unit of the bench", async () => {
  await station([done]);
  const told = await screen.findByTestId("build-report");
  for (const words of ["80 × 60 × 5.2 mm", "123,456", "0.0123 mm", "0.0345 mm", "24.90 cm³", "5.9 MiB", "2.3 s"]) expect(told.textContent).toContain(words);
  expect(screen.getByText("pot-80x60x5.3mf")).toBeTruthy();
  act(() => useBenchStore.setState({ unit: "in" }));
  expect(screen.getByTestId("build-report").textContent).toContain(" in");
});

test("a build of an earlier revision is not offered for this one", async () => {
  await station([{ ...done, revision: 2 }]);
  expect(screen.getByRole("button", { name: "Build and save 3MF" })).toBeTruthy();
  expect(screen.queryByTestId("build-report")).toBeNull();
});

describe("a build", () => {
  test("can be cancelled, and says so after", async () => {
    on("POST /api/jobs/j1/cancel", job("j1", { state: "cancelled" }));
    await station([job("j1", { state: "running", stage: "Checking" })]);
    expect((await screen.findByLabelText<HTMLSelectElement>("File format")).disabled).toBe(true);
    await act(async () => fireEvent.click(screen.getByRole("button", { name: "Cancel" })));
    expect(await screen.findByText("The last build was cancelled.")).toBeTruthy();
    expect(screen.getByRole("button", { name: "Build and save 3MF" })).toBeTruthy();
  });

  test("that failed says why", async () => {
    await station([job("j1", { state: "failed", message: "The solid would have no volume." })]);
    expect((await screen.findByRole("alert")).textContent).toContain("The solid would have no volume.");
  });

  test("that is refused says why", async () => {
    on("POST /api/pieces/p1/build", () => ({ status: 422, json: { message: "The mark finds no skin where it lies." } }));
    await station();
    await act(async () => fireEvent.click(screen.getByRole("button", { name: "Build and save 3MF" })));
    expect((await screen.findByRole("alert")).textContent).toContain("The mark finds no skin where it lies.");
  });
});

test("format and machine are kept as steps", async () => {
  await station();
  fireEvent.change(screen.getByLabelText("File format"), { target: { value: "glb" } });
  expect(keep).toHaveBeenLastCalledWith("Deliver GLB", { delivery: { format: "glb" } });
  fireEvent.change(screen.getByLabelText("Layer height"), { target: { value: "0.2" } });
  fireEvent.keyDown(screen.getByLabelText("Layer height"), { key: "Enter" });
  expect(keep).toHaveBeenLastCalledWith("Layer height 0.2 mm", { maker: { layer_mm: 0.2 } });
  expect(screen.getByText("Workshop printer, takes pieces up to 220 × 220 × 250 mm.")).toBeTruthy();
});

describe("paint", () => {
  const painted = { ...MODEL, paint: { on: true, colour: "#c9b79c" } } as unknown as AnyDocument;

  test("comes from the shelf's colours, and is taken off again", async () => {
    on("GET /api/filaments", [{ id: 1, name: "Moss", colour: "#4C7A3D" }]);
    await station([], painted);
    fireEvent.click(await screen.findByRole("button", { name: "Moss" }));
    expect(keep).toHaveBeenLastCalledWith("Painted Moss", { paint: { colour: "#4c7a3d" } });
    fireEvent.click(screen.getByLabelText("Colour on"));
    expect(keep).toHaveBeenLastCalledWith("Not painted", { paint: { on: false } });
  });

  test("is of no use where a router makes the piece", async () => {
    for (const address of ["bits", "posts"]) on(`GET /api/${address}`, []);
    await station([], { ...painted, maker: MAKER, carving: { ...MODEL.carving, on: true, bits: [], stock: {}, passes: {}, post: {}, cut_out: {} } } as unknown as AnyDocument);
    expect(screen.queryByLabelText("Colour on")).toBeNull();
  });
});
