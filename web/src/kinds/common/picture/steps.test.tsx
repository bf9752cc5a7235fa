// @vitest-environment happy-dom
import { askedOf, framed, freshServer, on } from "../../../testing/server";
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { OpKind, PictureOp } from "../../../api/ops";
import { counts } from "../../../api/parts";
import { useBenchStore } from "../../../state/benchStore";
import { OPS } from "../../../testing/parts";
import { useShowing } from "../../../testing/page";
import { otherwise, show, type } from "../../../testing/stations";
import type { OpsEditing } from "../ops/useOps";
import { AddOp } from "./AddOp";
import { OpBody } from "./OpBody";
import { OpList } from "./OpList";

const kindNamed = (name: string): OpKind => {
  const found = OPS.find(({ kind }) => kind === name);
  if (!found) throw new Error(`There is no op ${name}.`);
  return found;
};
const opOf = (name: string, change: Record<string, unknown> = {}): PictureOp => ({ kind: name, id: name, on: true, ...kindNamed(name).defaults, ...change });

const held = { open: vi.fn(), add: vi.fn(), drag: vi.fn(), keep: vi.fn(), copy: vi.fn(), remove: vi.fn(), move: vi.fn() };
function editingOf(ops: readonly PictureOp[], shown = ops): OpsEditing {
  const kindOf = (op: PictureOp) => OPS.find(({ kind }) => kind === op.kind);
  return { ops, shown, kindOf, titleOf: (op) => kindOf(op)?.title ?? `“${op.kind}”`, ...held };
}
const body = (op: PictureOp, ops = [op]) => show(<OpBody pieceId="p1" revision={1} op={op} kind={OPS.find(({ kind }) => kind === op.kind)} editing={editingOf(ops)} />, "panel");
const list = (ops: readonly PictureOp[]) => show(<OpList pieceId="p1" revision={1} editing={editingOf(ops)} />, "panel");
const floats = (shape: number[], ...values: number[]) => ({ dtype: "float32", shape, values: Float32Array.from(values) });
const bytes = (shape: number[], ...values: number[]) => ({ dtype: "uint8", shape, values: Uint8Array.from(values) });

beforeEach(() => {
  freshServer();
  useBenchStore.setState({ unit: "mm", opId: null, look: "end", draft: null });
  useShowing.setState({}, true);
  on("GET /api/ops", OPS);
  on("POST /api/pieces/p1/plan", () => ({ bytes: framed({ size_mm: [80, 40, 4] }, { heights: floats([1, 2], 0, 3), tones: { dtype: "uint16", shape: [1, 2], values: Uint16Array.from([0, 65535]) } }) }));
  on("POST /api/pieces/p1/tones/reduce", [0.1, 0.5, 0.9]);
  on("POST /api/ops/curve", Array.from({ length: 101 }, (_, at) => at / 100));
});
afterEach(() => {
  cleanup();
  for (const each of Object.values(held)) each.mockReset();
});

describe("the card of every kind", () => {
  test.each(OPS.map((kind) => [kind.title, kind] as const))("%s: says what it does, and keeps each number that is typed", (_, kind) => {
    const op = opOf(kind.kind);
    body(op);
    expect(screen.getByText(kind.hint)).toBeTruthy();
    for (const field of kind.fields) {
      if ((field.type !== "number" && field.type !== "whole") || !counts(field, op) || op[field.name] == null) continue;
      const { text, number } = otherwise(field, Number(op[field.name]));
      const shown = screen.getAllByLabelText(field.title).filter((each) => each.getAttribute("inputmode") === "decimal");
      expect(shown, field.title).toHaveLength(1);
      type(field.title, text);
      expect(held.keep.mock.lastCall?.slice(0, 3), field.title).toMatchObject([kind.kind, expect.stringContaining(field.title.toLowerCase()), { [field.name]: number }]);
    }
  });

  test("a border is measured in what its unit says", () => {
    body(opOf("border", { unit: "px", left: 12 }));
    expect(screen.getByLabelText<HTMLInputElement>("Left").value).toBe("12 px");
    body(opOf("border", { unit: "mm", left: 12 }));
    expect(screen.getByLabelText<HTMLInputElement>("Left").value).toBe("12 mm");
  });

  test("the Plan can look before a step, after it, and at the end", () => {
    body(opOf("invert"));
    fireEvent.click(screen.getByRole("radio", { name: "Before it" }));
    expect(useBenchStore.getState().look).toBe("in");
  });

  test("a step of a newer Nebrel is kept and said to do nothing", () => {
    show(<OpBody pieceId="p1" revision={1} op={{ kind: "dream", id: "x", on: true }} kind={undefined} editing={editingOf([])} />, "panel");
    expect(screen.getByText(/made by a newer Nebrel/)).toBeTruthy();
  });
});

describe("what is made by hand", () => {
  test("a crop is trimmed to what the picture shows before it", async () => {
    const box = { left: 0.1, bottom: 0.2, right: 0.9, top: 0.8 };
    on("POST /api/pieces/p1/content-box", box);
    body(opOf("crop"), [opOf("invert"), opOf("crop")]);
    fireEvent.click(screen.getByRole("button", { name: "Trim to content" }));
    await waitFor(() => expect(held.keep).toHaveBeenLastCalledWith("crop", "trimmed to content", { box, aspect: "free" }));
    expect(askedOf("POST /api/pieces/p1/content-box")).toMatchObject([{ upto: "invert" }]);
  });

  test("what cannot be trimmed says why", async () => {
    on("POST /api/pieces/p1/content-box", () => ({ status: 422, json: { message: "The picture is blank everywhere." } }));
    body(opOf("crop"));
    fireEvent.click(screen.getByRole("button", { name: "Trim to content" }));
    await screen.findByText("The picture is blank everywhere.");
    expect(held.keep).not.toHaveBeenCalled();
  });

  test("levels are moved on the histogram, and never past each other", () => {
    body(opOf("levels", { black: 0.4, white: 0.405 }));
    const [black, white] = [/Becomes black, on/, /Becomes white, on/].map((name) => screen.getByRole("slider", { name }));
    if (!black || !white) throw new Error("There are two handles.");
    fireEvent.keyDown(black, { key: "ArrowRight" });
    expect(held.keep).toHaveBeenLastCalledWith("levels", "becomes black", { black: 0.395 });
    fireEvent.keyDown(white, { key: "ArrowLeft" });
    expect(held.keep).toHaveBeenLastCalledWith("levels", "becomes white", { white: 0.41 });
  });

  test("tones that remain become others, one by one", async () => {
    body(opOf("reduce", { becomes: [] }));
    const table = await screen.findByRole("group", { name: "Tones that remain" });
    const field = within(table).getByLabelText("Tone 2, 50 %, becomes");
    fireEvent.change(field, { target: { value: "75 %" } });
    fireEvent.keyDown(field, { key: "Enter" });
    expect(held.keep).toHaveBeenLastCalledWith("reduce", "tone 2 becomes 75 %", { becomes: [null, 0.75, null] });
  });

  test("strokes and spots are taken back, the last or all", () => {
    const stroke = { places: [[0.1, 0.1, 1]], size_mm: 3, hardness: 0.8, inside: true };
    body(opOf("paint", { strokes: [stroke, stroke] }));
    expect(screen.getByText("2 strokes")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Take back the last" }));
    expect(held.keep).toHaveBeenLastCalledWith("paint", "last stroke taken back", { strokes: [stroke] });
    body(opOf("fill", { spots: [[0.5, 0.5]] }));
    fireEvent.click(screen.getByRole("button", { name: "All" }));
    expect(held.keep).toHaveBeenLastCalledWith("fill", "all spots taken back", { spots: [] });
    body(opOf("erase", { strokes: [] }));
    expect(screen.getByText("No stroke yet; draw on the Plan.")).toBeTruthy();
  });

  test("the brush at hand has a size and a hardness within what strokes may have", () => {
    body(opOf("paint"));
    type("Brush size", "7");
    expect(useBenchStore.getState().brush.sizeMm).toBe(7);
    type("Hardness", "30 %");
    expect(useBenchStore.getState().brush.hardness).toBe(0.3);
    type("Brush size", "0.001");
    expect(screen.getByText("0.05 mm to 500 mm would be accepted.")).toBeTruthy();
  });

  test("marks say what stays and what goes, with a box or without", () => {
    body(opOf("cut-out", { by: "marks", box: null }));
    fireEvent.click(screen.getByRole("button", { name: "Draw a box around it" }));
    expect(held.keep).toHaveBeenLastCalledWith("cut-out", "box added", { box: { left: 0.08, bottom: 0.08, right: 0.92, top: 0.92 } });
    fireEvent.click(screen.getByRole("radio", { name: "Goes" }));
    expect(useBenchStore.getState().brush.inside).toBe(false);
    body(opOf("cut-out", { by: "mask" }));
    expect(screen.getByText(/White stays, black goes/)).toBeTruthy();
  });
});

describe("the list", () => {
  test("says how to begin, and that nothing is lost", () => {
    list([]);
    expect(screen.getByText(/Nothing is done to the picture yet/)).toBeTruthy();
  });

  test("shows what each step did, or why it could not", async () => {
    const arrays = { gray0: bytes([1, 2], 0, 255), cover0: bytes([1, 2], 255, 255) };
    on("POST /api/pieces/p1/strip", () => ({ bytes: framed({ ids: ["", "invert"], failed: { invert: "Nothing would be left." } }, arrays) }));
    list([opOf("invert")]);
    expect((await screen.findByRole("alert")).textContent).toContain("Nothing would be left.");
  });

  test("is ordered by keys and by its menus, copied, switched and shortened", () => {
    on("POST /api/pieces/p1/strip", () => ({ bytes: framed({ ids: [], failed: {} }, {}) }));
    list([opOf("invert"), opOf("crop"), opOf("levels")]);
    const crop = screen.getByRole("button", { name: "Crop" });
    fireEvent.keyDown(crop, { key: "ArrowUp", altKey: true });
    expect(held.move).toHaveBeenLastCalledWith("crop", 0);
    fireEvent.keyDown(crop, { key: "ArrowDown" });
    expect(held.move).toHaveBeenCalledTimes(1);
    fireEvent.keyDown(screen.getByRole("button", { name: "Levels" }), { key: "ArrowDown", altKey: true });
    expect(held.move).toHaveBeenCalledTimes(1);
    fireEvent.click(screen.getByLabelText("Crop on"));
    expect(held.keep).toHaveBeenLastCalledWith("crop", "switched off", { on: false });
    fireEvent.click(screen.getByRole("button", { name: "More for Crop" }));
    const menu = within(document.querySelector(".dropdown-menu.show") as HTMLElement);
    fireEvent.click(menu.getByRole("button", { name: "Duplicate" }));
    expect(held.copy).toHaveBeenLastCalledWith("crop");
    fireEvent.click(crop);
    expect(held.open.mock.lastCall?.[0]).toMatchObject({ id: "crop" });
  });

  test("gets a step that is found by what it does", async () => {
    const onAdd = vi.fn();
    show(<AddOp onAdd={onAdd} />, "panel");
    fireEvent.click(screen.getByRole("button", { name: "Add a step" }));
    const search = await screen.findByLabelText("Find a step");
    await screen.findByRole("button", { name: "Invert" });
    fireEvent.change(search, { target: { value: "bright becomes dark" } });
    expect(screen.queryByRole("button", { name: "Crop" })).toBeNull();
    fireEvent.keyDown(search, { key: "Enter" });
    expect(onAdd).toHaveBeenLastCalledWith("invert");
    fireEvent.change(search, { target: { value: "make coffee" } });
    expect(screen.getByText(/No step does that/)).toBeTruthy();
  });
});
