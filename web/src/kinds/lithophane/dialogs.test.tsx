// @vitest-environment happy-dom
import { askedOf, freshServer, framed, on } from "../../testing/server";
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { LithophaneDocument } from "../../api/client";
import { onPage } from "../../testing/page";
import { begun, editing, keep, kept, pieceOf } from "../../testing/stations";
import { CalibrationDialog } from "./CalibrationDialog";
import { VariationsDialog } from "./VariationsDialog";

const MATERIAL = { name: "White filament", attenuation_per_mm: 1.05, surface_loss: 0.12, cast: "#fff6e8" };
const FIT = { attenuation_per_mm: 0.987654, attenuation_error: 0.0123, surface_loss: 0.0876543, bare: true, dark_offset: 0.012, attenuation_within: [0.9512, 1.0255], surface_loss_within: [0.08, 0.1], rms: 0.0056, spread_mm: null as number | null, spread_error: null, residuals: [0.001, -0.004, 0.002], findings: [] as unknown[] };
const onUse = vi.fn();
const onHide = vi.fn();
const button = (name: string | RegExp) => screen.getByRole<HTMLButtonElement>("button", { name });
const reading = (label: string) => screen.getByLabelText<HTMLInputElement>(label);

beforeEach(() => {
  freshServer();
  on("GET /api/materials", []);
  on("GET /api/wedge?steps=10", [0.4, 0.8]);
  on("POST /api/fit-material", FIT);
});
afterEach(() => {
  cleanup();
  onUse.mockReset();
  onHide.mockReset();
  keep.mockReset();
});

describe("a material is measured", () => {
  const open = async () => {
    render(<CalibrationDialog show onHide={onHide} material={MATERIAL} onUse={onUse} />, { wrapper: onPage() });
    await screen.findByLabelText("Brightness of 0.80 mm");
  };
  const typeAll = () => {
    for (const [label, text] of [["Brightness of the bare light", "1"], ["Brightness of 0.40 mm", "0,61"], ["Brightness of 0.80 mm", "0.4"]] as const) {
      fireEvent.change(reading(label), { target: { value: text } });
    }
  };

  test("by readings that are typed, with a comma or a point", async () => {
    await open();
    typeAll();
    fireEvent.click(button("Fit"));
    const facts = await screen.findByTestId("fit-facts");
    expect(askedOf("POST /api/fit-material")).toEqual([{ thickness_mm: [0, 0.4, 0.8], brightness: [1, 0.61, 0.4], dark: [], edge: [] }]);
    expect([...facts.querySelectorAll("dd")].map((fact) => fact.textContent)).toEqual(["0.9877 per mm, within 0.9512 to 1.0255", "8.8 %", "1.2 %", "0.56 %"]);
  });

  test("and every reading tells how far it is off the fit; one that is left out has none", async () => {
    on("POST /api/fit-material", { ...FIT, bare: false, residuals: [0.001, -0.004] });
    await open();
    typeAll();
    fireEvent.change(reading("Brightness of the bare light"), { target: { value: "" } });
    fireEvent.click(button("Fit"));
    await screen.findByTestId("fit-facts");
    expect(screen.getAllByRole("row").map((row) => row.querySelector("td:last-child")?.textContent).slice(1)).toEqual(["", "+0.10 %", "−0.40 %", ""]);
    expect(screen.getByText("unknown, bare light not read")).toBeTruthy();
  });

  test("by the simulated light box, which shakes otherwise each time", async () => {
    on("POST /api/light-box", { thickness_mm: [0, 0.4], brightness: [1, 0.623456789], dark: [] });
    await open();
    fireEvent.click(button("Read the simulated light box"));
    await waitFor(() => expect(reading("Brightness of 0.40 mm").value).toBe("0.62346"));
    fireEvent.click(button("Read the simulated light box"));
    await waitFor(() => expect(askedOf("POST /api/light-box")).toHaveLength(2));
    const [one, other] = askedOf("POST /api/light-box") as { seed: number; steps: number; material: unknown }[];
    expect(one?.seed).not.toBe(other?.seed);
    expect(one).toMatchObject({ steps: 10, material: MATERIAL });
  });

  test.each([
    ["readings.csv", "POST /api/wedge-readings"],
    ["lit.png", "POST /api/wedge-photograph"],
  ])("by a file, %s", async (name, address) => {
    on(address, { thickness_mm: [0.4], brightness: [0.5], dark: [0.02] });
    await open();
    fireEvent.change(screen.getByLabelText(/^A photograph cropped/), { target: { files: [new File(["x"], name)] } });
    await waitFor(() => expect(reading("Brightness of 0.40 mm").value).toBe("0.5"));
    expect(reading("Brightness with the light covered").value).toBe("0.02");
    expect(askedOf(address)).toHaveLength(1);
  });

  test("a file that is refused says why, and what was typed stays", async () => {
    on("POST /api/wedge-readings", () => ({ status: 422, json: { message: "Two columns would be read: mm and brightness." } }));
    await open();
    typeAll();
    fireEvent.change(screen.getByLabelText(/^A photograph cropped/), { target: { files: [new File(["x"], "notes.txt")] } });
    expect((await screen.findByRole("alert")).textContent).toBe("Two columns would be read: mm and brightness.");
    expect(reading("Brightness of 0.80 mm").value).toBe("0.4");
  });

  test("a fit is gone as soon as a reading changes, and when the next one is refused", async () => {
    await open();
    typeAll();
    fireEvent.click(button("Fit"));
    await screen.findByTestId("fit-facts");
    fireEvent.change(reading("Brightness of 0.80 mm"), { target: { value: "0.9" } });
    expect(screen.queryByTestId("fit-facts")).toBeNull();
    on("POST /api/fit-material", () => ({ status: 422, json: { message: "At least three steps would be fitted." } }));
    fireEvent.click(button("Fit"));
    await screen.findByText("At least three steps would be fitted.");
    expect(screen.queryByTestId("fit-facts")).toBeNull();
  });

  test("one that is to be doubted says why, and asks a second time before it is kept", async () => {
    on("POST /api/fit-material", { ...FIT, findings: [{ severity: "caution", measure: "stray-light", what: "Light is read in the dark.", why: "A mask reads truer.", where: null, value: 2, unit: "%", fix: null }] });
    on("POST /api/materials", { id: 9 });
    await open();
    typeAll();
    fireEvent.change(reading("Brightness with the light covered"), { target: { value: "0,02" } });
    fireEvent.click(button("Fit"));
    expect((await screen.findByRole("alert")).textContent).toBe("Light is read in the dark. A mask reads truer.");
    expect(askedOf("POST /api/fit-material")).toMatchObject([{ dark: [0.02] }]);
    fireEvent.change(screen.getByLabelText("Name of the measured material"), { target: { value: "White" } });
    fireEvent.click(button("Keep and use"));
    expect(askedOf("POST /api/materials")).toEqual([]);
    fireEvent.click(button("Keep it all the same"));
    await waitFor(() => expect(onUse).toHaveBeenCalled());
  });

  test("and kept under a name, rounded, with the colour that it had", async () => {
    on("POST /api/materials", { id: 9 });
    await open();
    typeAll();
    fireEvent.click(button("Fit"));
    await screen.findByTestId("fit-facts");
    expect(button("Keep and use").disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("Name of the measured material"), { target: { value: " Bone white " } });
    fireEvent.click(button("Keep and use"));
    const made = { name: "Bone white", attenuation_per_mm: 0.9877, surface_loss: 0.0877, cast: "#fff6e8" };
    await waitFor(() => expect(onUse).toHaveBeenCalledExactlyOnceWith(made, null));
    expect(askedOf("POST /api/materials")).toEqual([{ ...made, measured: true, spread_mm: 0 }]);
    expect(onHide).toHaveBeenCalledTimes(1);
  });

  test("what was read across an edge tells the spread of light, which is kept with it", async () => {
    const edge = [[0, 0.2], [0.5, 0.4], [1, 0.6]];
    on("POST /api/wedge-readings", { thickness_mm: [0, 0.4, 0.8], brightness: [1, 0.6, 0.4], dark: [], edge });
    on("POST /api/fit-material", { ...FIT, spread_mm: 0.41239, spread_error: 0.01 });
    on("POST /api/materials", { id: 9 });
    await open();
    fireEvent.change(screen.getByLabelText(/or a CSV/), { target: { files: [new File(["edge,0,0.2"], "read.csv")] } });
    await waitFor(() => expect(reading("Brightness of 0.80 mm").value).toBe("0.4"));
    fireEvent.click(button("Fit"));
    expect(await screen.findByText("0.412 mm")).toBeTruthy();
    expect(askedOf("POST /api/fit-material")).toMatchObject([{ edge }]);
    fireEvent.change(screen.getByLabelText("Name of the measured material"), { target: { value: "Bone" } });
    fireEvent.click(button("Keep and use"));
    await waitFor(() => expect(askedOf("POST /api/materials")).toMatchObject([{ spread_mm: 0.4124 }]));
    await waitFor(() => expect(onUse.mock.calls[0]?.[1]).toBe(0.4124));
  });

  test("what the surfaces lose stays as it was where bare light was not read", async () => {
    on("POST /api/fit-material", { ...FIT, bare: false });
    on("POST /api/materials", { id: 9 });
    await open();
    typeAll();
    fireEvent.click(button("Fit"));
    await screen.findByTestId("fit-facts");
    fireEvent.change(screen.getByLabelText("Name of the measured material"), { target: { value: "Bone" } });
    fireEvent.click(button("Keep and use"));
    await waitFor(() => expect(askedOf("POST /api/materials")).toMatchObject([{ surface_loss: 0.12 }]));
  });

  test("a name that is taken says so, and nothing is used", async () => {
    on("POST /api/materials", () => ({ status: 409, json: { message: "There is a material of that name." } }));
    await open();
    typeAll();
    fireEvent.click(button("Fit"));
    await screen.findByTestId("fit-facts");
    fireEvent.change(screen.getByLabelText("Name of the measured material"), { target: { value: "Porcelain" } });
    fireEvent.click(button("Keep and use"));
    expect((await screen.findByRole("alert")).textContent).toBe("There is a material of that name.");
    expect(onUse).not.toHaveBeenCalled();
    expect(onHide).not.toHaveBeenCalled();
  });
});

describe("variations of a lithophane", () => {
  const CELLS = [0, 0.5, 1].map((strength) => ({ thinnest_mm: 0.6, thickest_mm: 3.2, strength, contrast: 12.4 }));
  const sheet = { dtype: "float32", shape: [2, 2], values: new Float32Array([0, 0.2, 0.5, 1]) };
  const open = (glow = {}) => {
    const document = begun("LithophaneDocument", { glow });
    const props = { piece: pieceOf("lithophane", document), pieceId: "p1", revision: 1, document: document as unknown as LithophaneDocument, editing };
    render(<VariationsDialog {...props} show onHide={onHide} />, { wrapper: onPage(undefined, "lithophane") });
  };
  beforeEach(() => on("POST /api/pieces/p1/variations", () => ({ bytes: framed({ cells: CELLS }, { through0: sheet, through1: sheet, through2: sheet }) })));

  test("say what each of them is", async () => {
    open();
    const cells = await screen.findAllByRole("button", { name: /to 3.2 mm/ });
    expect(cells.map((cell) => cell.querySelector("b")?.textContent)).toEqual(["straight", "50 % of the light rule", "true to light"]);
    expect(cells[0]?.textContent).toContain("contrast 1 : 12");
  });

  test("show which one the piece is", async () => {
    open({ thickest_mm: 3.2, strength: 0.5, rule: "light" });
    const cells = await screen.findAllByRole("button", { name: /to 3.2 mm/ });
    expect(cells.map((cell) => cell.getAttribute("aria-pressed"))).toEqual(["false", "true", "false"]);
  });

  test("are taken as one step", async () => {
    open();
    fireEvent.click(await screen.findByRole("button", { name: /true to light/ }));
    expect(kept()).toEqual(["Variation: up to 3.2 mm, true to light", { glow: { thickest_mm: 3.2, strength: 1, rule: "light" } }]);
    expect(onHide).toHaveBeenCalledTimes(1);
  });

  test("that cannot be lit say why", async () => {
    on("POST /api/pieces/p1/variations", () => ({ status: 422, json: { message: "Every pixel is blank." } }));
    open();
    expect((await screen.findByRole("alert")).textContent).toBe("Every pixel is blank.");
  });
});
