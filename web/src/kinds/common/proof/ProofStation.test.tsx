// @vitest-environment happy-dom
import { freshServer, on } from "../../../testing/server";
import { act, cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { AnyDocument, Finding, JobView } from "../../../api/client";
import type { Plan } from "../../../api/preview";
import { keys } from "../../../api/pieces";
import { useBenchStore } from "../../../state/benchStore";
import { freshClient, onPage, useShowing } from "../../../testing/page";
import { begun, editing, keep, type } from "../../../testing/stations";
import { LitCard } from "../../lithophane/LitCard";
import { RecipeCard } from "../../lithophane/RecipeCard";
import { ProofStation } from "./ProofStation";

const JOBS = "GET /api/jobs?piece_id=p1";
const REPORT = { size_mm: [80, 60, 5.2], triangles: 1000, max_error_mm: 0.01, rms_error_mm: 0.002, max_error_between_mm: 0.03, error_how: "vertically", error_where: "at samples", volume_mm3: 24_900, file_bytes: 50_000, seconds: 1, findings: [] };
const built = (findings: Finding[] = [], revision = 3) =>
  [{ id: "j1", piece_id: "p1", kind: "build", state: "done", revision, stage: "", fraction: 1, message: "", created: "2026-01-01T10:00:00Z", result: { file_name: "fern.stl", report: { ...REPORT, findings } } }] as unknown as JobView[];
const finding = (severity: Finding["severity"], what = severity) => ({ code: what, severity, message: what }) as unknown as Finding;
const state = () => useBenchStore.getState();
const button = (name: string) => screen.getByRole<HTMLButtonElement>("button", { name });

beforeEach(() => {
  freshServer();
  on("POST /api/pieces/p1/layers", () => new Promise(() => undefined));
  useBenchStore.setState({ unit: "mm", mapKind: null, line: null, tiltDeg: 0, liftMm: 0, measuring: false, picked: [], light: { fromDeg: 120, aboveDeg: 40 } });
  useShowing.setState({ plan: { head: { size_mm: [80, 60, 5.2], backing_mm: 2 } } as unknown as Plan });
});
afterEach(() => {
  cleanup();
  keep.mockReset();
  useShowing.setState({}, true);
});

async function station(jobs: JobView[] = [], material = {}) {
  const client = freshClient();
  on(JOBS, jobs);
  const document = begun("PanelDocument", { maker: { material } });
  render(<ProofStation pieceId="p1" revision={3} document={document as unknown as AnyDocument} editing={editing} />, { wrapper: onPage(client) });
  await waitFor(() => expect(client.getQueryData(keys.jobs("p1"))).toEqual(jobs));
}

describe("the verdict", () => {
  const verdict = () => screen.getByRole("status", { name: "Verdict" });

  test("is what was foreseen, until this very revision is built", async () => {
    useShowing.setState({ findings: [finding("caution"), finding("caution", "other" as Finding["severity"])] });
    await station(built([finding("fault")], 2));
    expect(verdict().textContent).toMatch(/Can be made|Nothing speaks/);
    cleanup();
    await station(built([finding("fault")]));
    expect(verdict().className).toContain("fault");
    expect(verdict().textContent).toContain("1 fault must be mended");
  });

  test("of a sound, built piece is that it is ready", async () => {
    await station(built());
    expect(verdict().textContent).toContain("Ready to be made.");
  });
});

describe("measures", () => {
  test("are told once the piece is built", async () => {
    await station();
    expect(screen.getByText(/Build the piece at Deliver/)).toBeTruthy();
    expect(screen.getByText("Told once the piece is built.")).toBeTruthy();
  });

  test("give weight and cost by density and price", async () => {
    await station(built(), { density_g_cm3: 1.25, price_per_kg: 40 });
    expect([...screen.getByTestId("weight").querySelectorAll("dd")].map((fact) => fact.textContent)).toEqual(["31.1 g", "1.25"]);
    type("Density, g/cm³", "2.5");
    expect(keep.mock.lastCall?.[1]).toEqual({ maker: { material: { density_g_cm3: 2.5 } } });
  });
});

test("the model is coloured by what is chosen, which says how it is measured", async () => {
  await station();
  const choice = screen.getByLabelText<HTMLSelectElement>("Colour the model by");
  fireEvent.change(choice, { target: { value: "thickness-ray" } });
  expect(state().mapKind).toBe("thickness-ray");
  expect(screen.getByText(/grazes steep walls/)).toBeTruthy();
  fireEvent.change(choice, { target: { value: "" } });
  expect(state().mapKind).toBeNull();
});

describe("the section", () => {
  const facts = () => [...document.querySelectorAll("dd")].map((fact) => fact.textContent);

  test("runs across the middle to begin with, and tells from where to where", async () => {
    await station();
    expect(facts().slice(0, 3)).toEqual(["80.00 mm", "0.00 mm, 30.00 mm", "80.00 mm, 30.00 mm"]);
  });

  test("is put upwards and back across", async () => {
    await station();
    fireEvent.click(button("Upwards"));
    expect(facts().slice(0, 3)).toEqual(["60.00 mm", "40.00 mm, 0.00 mm", "40.00 mm, 60.00 mm"]);
    fireEvent.click(button("Across"));
    expect(state().line).toEqual({ start: { x: 0, y: 0.5 }, end: { x: 1, y: 0.5 } });
  });

  test("lies level at half the height, which can then be typed", async () => {
    await station();
    expect(screen.queryByLabelText("Height of its line")).toBeNull();
    fireEvent.click(button("Level"));
    expect([state().tiltDeg, state().liftMm]).toEqual([90, 2.6]);
    type("Height of its line", "4.1");
    expect(state().liftMm).toBe(4.1);
  });

  test("leans by what is typed, not further than level", async () => {
    await station();
    type("Lean of the plane", "30");
    expect(state().tiltDeg).toBe(30);
    type("Lean of the plane", "120");
    expect(state().tiltDeg).toBe(30);
    expect(screen.getByRole("alert").textContent).toMatch(/-90.*90/);
  });
});

describe("a distance on the model", () => {
  test("asks for the first and the second place, and is told straight and along each axis", async () => {
    await station();
    fireEvent.click(button("Pick two places on the model"));
    expect(state().measuring).toBe(true);
    expect(screen.getByText("Press on the first place.")).toBeTruthy();
    act(() => useBenchStore.setState({ picked: [[0, 0, 0]] }));
    expect(screen.getByText("Now the second place.")).toBeTruthy();
    act(() => useBenchStore.setState({ picked: [[10, 10, 0], [7, 14, 12]] }));
    expect([...screen.getByTestId("measured").querySelectorAll("dd")].map((fact) => fact.textContent)).toEqual(["13.00 mm", "3.00 mm, 4.00 mm, 12.00 mm"]);
  });

  test("is given up by a second press, and when one leaves the station", async () => {
    await station();
    fireEvent.click(button("Pick two places on the model"));
    act(() => useBenchStore.setState({ picked: [[0, 0, 0]] }));
    fireEvent.click(button("Stop measuring"));
    expect([state().measuring, state().picked]).toEqual([false, []]);
    fireEvent.click(button("Pick two places on the model"));
    cleanup();
    expect(state().measuring).toBe(false);
  });
});

test.each([
  ["From the left", 180],
  ["From above", 90],
  ["From the right", 0],
])("the lamp grazes %s", async (name, fromDeg) => {
  await station();
  fireEvent.click(button(name));
  expect(state().light).toEqual({ fromDeg, aboveDeg: 14 });
});

describe("a lithophane in light", () => {
  const FACTS = {
    lit: { contrast: 42.06, tones_lost: 0.0312, thinnest_mm: 0.6, thickest_mm: 3.2, ssim_within_reach: 0.98765, ssim: 0.91 },
    detail_mm: 0.84,
    recipe: "Lithophane, Moon\n\nLayer height   0.12 mm\nWalls, all of them      solid\nno number",
  };
  beforeEach(() => on("POST /api/pieces/p1/lit", FACTS));

  test("tells contrast, lost tones, walls and likeness", async () => {
    render(<LitCard pieceId="p1" revision={3} />, { wrapper: onPage(undefined, "lithophane") });
    const facts = await screen.findByTestId("lit-facts");
    expect([...facts.querySelectorAll("dd")].map((fact) => fact.textContent)).toEqual(["1 : 42.1", "3.1 % of the picture", "0.60 to 3.20 mm", "0.988 of 1", "0.910 of 1", "0.84 mm"]);
  });

  test("has a recipe, which can be saved once it is built", async () => {
    const { rerender } = render(<RecipeCard pieceId="p1" revision={3} builtBy={undefined} />, { wrapper: onPage(undefined, "lithophane") });
    const recipe = await screen.findByTestId("recipe");
    expect([...recipe.querySelectorAll("dt, dd")].map((each) => each.textContent)).toEqual(["Layer height", "0.12 mm", "Walls, all of them", "solid"]);
    expect(screen.queryByRole("link")).toBeNull();
    rerender(<RecipeCard pieceId="p1" revision={3} builtBy="j7" />);
    expect(screen.getByRole("link", { name: "Save the recipe as text" }).getAttribute("href")).toBe("/api/jobs/j7/recipe.txt");
  });
});
