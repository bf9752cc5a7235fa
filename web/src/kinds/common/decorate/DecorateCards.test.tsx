// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../../../testing/server";
import { act, cleanup, fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { ModelDocument } from "../../../api/client";
import type { Decoration, Stroke } from "../../../api/decorations";
import { partNamed } from "../../../api/parts";
import type { ShadedSolid } from "../../../api/preview";
import type { Editing } from "../../../state/useEditing";
import { framed } from "../../../testing/server";
import { onPage, useShowing } from "../../../testing/page";
import { PARTS } from "../../../testing/parts";
import { DecorateCards } from "./DecorateCards";
import { freshDecoration, freshStroke } from "./decorations";
import { forgetDecorating, useDecorStore } from "../../../state/decorStore";
import { useBrush } from "../../../state/brushStore";
import { useHandStore } from "../../../state/handStore";

const PART = partNamed(PARTS, "DecorationPart");
const OUTLINE = { kind: "outline", blob: "a".repeat(64), name: "Acorn" } as const;
const PICTURE = { kind: "picture", blob: "b".repeat(64), name: "Moss" } as const;
const decoration = (id: string, more: Partial<Decoration> = {}, art: Decoration["art"] = OUTLINE): Decoration => ({ ...freshDecoration(PART, art, 24, [0, 0, 1]), id, ...more });
const HEAD = { at: [0, 0, 0], out: [1, 0, 0], up: [0, 0, 1], right: [0, 1, 0], size_mm: [24, 24], handles: [], copies: 1, description: "cone of 7.5°", most_stretch: 0.124 };
const PLACEMENT = "POST /api/pieces/p1/placement";
const empty = { dtype: "float32", shape: [0], values: new Float32Array() };

const keep = vi.fn<Editing["keep"]>();
const drag = vi.fn<Editing["drag"]>();

beforeEach(() => {
  freshServer();
  on("GET /api/motifs?words=", [{ id: "m1", name: "Trail 7", tags: [], width_mm: 40, height_mm: 40, picture_blob: "c".repeat(64), drawing_blob: "d".repeat(64), changed: "2026-01-01" }]);
  on(PLACEMENT, () => ({ bytes: framed(HEAD, { corners: empty, shares: empty, stretch: empty }) }));
});
afterEach(() => {
  cleanup();
  keep.mockReset();
  drag.mockReset();
  forgetDecorating();
  useShowing.setState({}, true);
});

function cards(decorations: readonly Decoration[], strokes: readonly Stroke[] = []) {
  const document = { title: "Pot", decorations, strokes, thinnest_wall_mm: 0.8, model: { size_mm: [80, 80, 60] } } as unknown as ModelDocument;
  return render(<DecorateCards pieceId="p1" revision={1} document={document} editing={{ keep, drag }} />, { wrapper: onPage(undefined, "model") });
}

/** The label of the only step that was kept, and the decorations after it. */
function kept(): [string, readonly Decoration[]] {
  expect(keep).toHaveBeenCalledTimes(1);
  const [label, change] = keep.mock.calls[0] ?? ["", {}];
  keep.mockClear();
  return [label, (change.decorations ?? []) as Decoration[]];
}

const choose = (label: string, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });
const press = (name: string) => fireEvent.click(screen.getByRole("button", { name }));
function type(label: string, text: string) {
  fireEvent.change(screen.getByLabelText(label), { target: { value: text } });
  fireEvent.keyDown(screen.getByLabelText(label), { key: "Enter" });
}

describe("the list", () => {
  const pair = [decoration("one"), decoration("two", { effect: "sink", depth_mm: 1, width_mm: 8 }, PICTURE)];

  test("says what each decoration is, and how to begin where there is none", () => {
    cards([]);
    expect(screen.getByText(/Nothing is laid on yet/)).toBeTruthy();
    cleanup();
    cards(pair);
    expect(screen.getByRole("button", { name: "24 mm wide, 0.6 mm raised" })).toBeTruthy();
    expect(screen.getByRole("button", { name: "8 mm wide, 1 mm sunk" })).toBeTruthy();
  });

  test("is switched, ordered and shortened one decoration at a time", () => {
    cards(pair);
    fireEvent.click(screen.getByLabelText("Acorn on"));
    expect(kept()).toMatchObject(["Acorn off", [{ id: "one", on: false }, { id: "two", on: true }]]);
    press("Moss: lower in the order");
    expect(kept()[1].map(({ id }) => id)).toEqual(["two", "one"]);
    press("Remove: Acorn");
    expect(kept()).toMatchObject(["Acorn removed", [{ id: "two" }]]);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Acorn: lower in the order" }).disabled).toBe(true);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Moss: higher in the order" }).disabled).toBe(true);
  });

  test("opens the fields of one decoration, and asks where it lies", async () => {
    cards(pair);
    press("8 mm wide, 1 mm sunk");
    expect(useDecorStore.getState().chosen).toBe("two");
    await waitFor(() => expect(askedOf(PLACEMENT)).toMatchObject([{ decoration: { id: "two" }, most_copies: 1, quick: false }]));
    await waitFor(() => expect(screen.getByText(/Stretched by up to 12 %/)).toBeTruthy());
    press("8 mm wide, 1 mm sunk");
    expect(screen.queryByLabelText("Depth")).toBeNull();
  });

  test("tells why something cannot lie there", async () => {
    on(PLACEMENT, () => ({ status: 422, json: { message: "The decoration is wider than the model." } }));
    cards(pair);
    press("8 mm wide, 1 mm sunk");
    await waitFor(() => expect(screen.getByRole("alert").textContent).toBe("The decoration is wider than the model."));
  });
});

describe("choosing what is laid on", () => {
  test("takes a motif in hand, which is followed, and lets it go again", async () => {
    useShowing.setState({ model: { standing: true } as ShadedSolid });
    cards([]);
    await waitFor(() => expect(screen.getByRole<HTMLButtonElement>("button", { name: "Lay a motif on" }).disabled).toBe(false));
    press("Lay a motif on");
    const motif = await screen.findByRole("button", { name: "Trail 7" });
    await act(async () => fireEvent.click(motif));
    expect(screen.getByRole("status").textContent).toContain("Trail 7 follows the pointer");
    expect(useDecorStore.getState().fresh).toMatchObject({ art: { kind: "outline", blob: "d".repeat(64), motif: "m1" }, width_mm: 20, up: [0, 0, 1] });
    press("Do not lay it");
    expect(useDecorStore.getState()).toMatchObject({ fresh: null, tool: null });
  });

  test("takes a file of one's own, a quarter of the model wide, upright on what lies", async () => {
    on("POST /api/decoration-files", { kind: "picture", blob: "e".repeat(64), name: "moss.png" });
    cards([]);
    const files = screen.getByLabelText("Picture or drawing to lay on");
    await act(async () => fireEvent.change(files, { target: { files: [new File(["x"], "moss.png")] } }));
    await waitFor(() => expect(useDecorStore.getState().fresh).toMatchObject({ art: { name: "moss.png", motif: null }, width_mm: 20, up: [0, 1, 0] }));
  });

  test("tells why a file cannot be laid on, and takes nothing in hand", async () => {
    on("POST /api/decoration-files", () => ({ status: 422, json: { message: "notes.txt is not a picture; PNG would be accepted." } }));
    cards([]);
    await act(async () => fireEvent.change(screen.getByLabelText("Picture or drawing to lay on"), { target: { files: [new File(["x"], "notes.txt")] } }));
    await waitFor(() => expect(screen.getByRole("alert").textContent).toContain("notes.txt is not a picture"));
    expect(useDecorStore.getState().fresh).toBeNull();
  });

  test("Escape lets go of whatever is in hand", () => {
    cards([]);
    act(() => useDecorStore.getState().set({ fresh: decoration("fresh"), tool: "lay", trail: [[0, 0, 0]] }));
    fireEvent.keyDown(window, { key: "Escape" });
    expect(useDecorStore.getState()).toMatchObject({ fresh: null, tool: null, trail: [] });
  });
});

describe("the fields", () => {
  const open = (more: Partial<Decoration> = {}, art: Decoration["art"] = OUTLINE) => {
    cards([decoration("one", more, art), decoration("two")]);
    act(() => useDecorStore.getState().set({ chosen: "one" }));
  };

  test("keep each change as one step with a name, and leave the other decorations alone", () => {
    open();
    type("Width", "30");
    const [label, list] = kept();
    expect(label).toBe("Acorn: width 30 mm");
    expect(list).toMatchObject([{ id: "one", width_mm: 30 }, { id: "two", width_mm: 24 }]);
    type("Depth", "1/32 in");
    expect(kept()[1][0]?.depth_mm).toBeCloseTo(0.79375);
    fireEvent.click(screen.getByLabelText("Mirror"));
    expect(kept()).toMatchObject(["Acorn: mirror on", [{ mirror: true }, { mirror: false }]]);
    fireEvent.click(screen.getByRole("radio", { name: "Wrap" }));
    expect(kept()[1][0]?.lie).toBe("wrap");
    type("Z", "12.5");
    expect(kept()[1][0]?.at).toEqual([0, 0, 12.5]);
  });

  test("show while a slider is dragged, without a step", () => {
    open();
    fireEvent.change(screen.getByLabelText("Width, slider"), { target: { value: "40" } });
    expect(drag).toHaveBeenCalledOnce();
    expect(drag.mock.calls[0]?.[0]).toMatchObject({ decorations: [{ width_mm: 40 }, { width_mm: 24 }] });
    expect(keep).not.toHaveBeenCalled();
  });

  test("offer tones and both ways for pictures only", () => {
    open();
    const effects = () => within(screen.getByLabelText("What it does")).getAllByRole("option").map((each) => each.textContent);
    expect(effects()).toEqual(["Raised", "Sunk", "Colour only"]);
    expect(screen.queryByRole("radiogroup", { name: "Which tones stand tall?" })).toBeNull();
    cleanup();
    open({}, PICTURE);
    expect(effects()).toEqual(["Raised", "Sunk", "Both ways from middle gray", "Colour only", "Picture only"]);
    fireEvent.click(screen.getByRole("radio", { name: "Dark" }));
    expect(kept()[1][0]?.tall).toBe("dark");
  });

  test("hide depth and edge where nothing moves", () => {
    open({ effect: "colour" });
    expect(screen.queryByLabelText("Depth")).toBeNull();
    expect(screen.queryByLabelText("Edge")).toBeNull();
    fireEvent.change(screen.getByLabelText("Colour"), { target: { value: "#aa3311" } });
    expect(kept()[1][0]?.colour).toBe("#aa3311");
  });

  test("ask for the width and the side of an edge that has one", () => {
    open();
    expect(screen.queryByLabelText("Width of the edge")).toBeNull();
    choose("Edge", "fade");
    expect(kept()[1][0]?.edge).toEqual({ profile: "fade", width_mm: 1, side: "around" });
    cleanup();
    open({ edge: { profile: "fade", width_mm: 1, side: "around" } });
    type("Width of the edge", "20 mm");
    expect(kept()[1][0]?.edge.width_mm).toBe(20);
    choose("Side that fades", "left");
    expect(kept()[1][0]?.edge).toEqual({ profile: "fade", width_mm: 1, side: "left" });
  });

  test("choose from where a decoration is seen that lies straight on", () => {
    open({ lie: "project" });
    choose("Seen along", "0,1,0");
    expect(kept()[1][0]?.along).toEqual([0, 1, 0]);
    choose("Seen along", "");
    expect(kept()[1][0]?.along).toBeNull();
  });

  test("name the shape round which it is wrapped", async () => {
    open({ lie: "wrap" });
    await waitFor(() => expect(screen.getByText(/Here: a cone of 7.5°/)).toBeTruthy());
  });

  test("put it where it is snapped to, or tell why not", async () => {
    on("POST /api/pieces/p1/snap", { at: [0, -40, 30] });
    open();
    press("Half height");
    await waitFor(() => expect(keep).toHaveBeenCalled());
    expect(kept()).toMatchObject(["Acorn: half height", [{ at: [0, -40, 30] }, {}]]);
    expect(askedOf("POST /api/pieces/p1/snap")).toMatchObject([{ to: "half-height", at: [0, 0, 0] }]);
    on("POST /api/pieces/p1/snap", () => ({ status: 422, json: { message: "The model has no axis." } }));
    press("Every 15° round");
    await waitFor(() => expect(screen.getByRole("alert").textContent).toBe("The model has no axis."));
    expect(keep).not.toHaveBeenCalled();
  });

  test("set it upright as the model is looked at", () => {
    useShowing.setState({ model: { standing: true } as ShadedSolid });
    open({ turn_deg: 30 });
    press("Upright");
    expect(kept()[1][0]).toMatchObject({ up: [0, 0, 1], turn_deg: 0 });
    act(() => useShowing.setState({ model: { standing: false } as ShadedSolid }));
    press("Upright");
    expect(kept()[1][0]).toMatchObject({ up: [0, 1, 0], turn_deg: 0 });
  });
});

describe("copies", () => {
  const copies = (more: Partial<Decoration["copies"]>) => ({ ...decoration("x").copies, ...more });
  const open = (more: Partial<Decoration> = {}) => {
    cards([decoration("one", more)]);
    act(() => useDecorStore.getState().set({ chosen: "one" }));
  };
  const shown = () => ["Copies", "Columns", "Rows", "From middle to middle", "From row to row", "At least apart", "Within", "Each turned further by", "Turned by up to", "Seed"].filter((label) => screen.queryByLabelText(label));

  test.each([
    ["once", []],
    ["row", ["Copies", "From middle to middle", "Each turned further by"]],
    ["ring", ["Copies", "Each turned further by"]],
    ["grid", ["Columns", "Rows", "From middle to middle", "From row to row", "Each turned further by"]],
    ["scatter", ["Copies", "At least apart", "Within", "Turned by up to", "Seed"]],
  ] as const)("repeated %s ask for just what matters", (kind, labels) => {
    open({ copies: copies({ kind }) });
    expect(shown()).toEqual(labels);
  });

  test("begin and end being a texture without losing what they were", () => {
    open({ copies: copies({ kind: "ring", count: 7 }) });
    choose("Repeat", "tiled");
    expect(kept()[1][0]).toMatchObject({ tiled: true, copies: { kind: "ring", count: 7 } });
    cleanup();
    open({ tiled: true, copies: copies({ kind: "ring", count: 7 }) });
    expect(shown()).toEqual([]);
    choose("Repeat", "grid");
    expect(kept()[1][0]).toMatchObject({ tiled: false, copies: { kind: "grid", count: 7 } });
  });

  test("as a texture are told which way to point, by strokes that can be forgotten", () => {
    open({ tiled: true, grain: [{ places: [[0, 0, 0], [0, 0, 1]] }] });
    expect(screen.getByText("Rows follow your strokes.")).toBeTruthy();
    press("Draw directions");
    expect(useDecorStore.getState().tool).toBe("grain");
    press("Forget the direction");
    expect(kept()[1][0]).toMatchObject({ grain: [] });
    cleanup();
    open({ tiled: true, lie: "wrap" });
    expect(screen.queryByText("Draw directions")).toBeNull();
  });

  test("are counted, spaced and sown by what is typed", () => {
    open({ copies: copies({ kind: "scatter" }) });
    type("Copies", "30");
    expect(kept()).toMatchObject(["Acorn: copies 30", [{ copies: { kind: "scatter", count: 30 } }]]);
    type("At least apart", "5");
    expect(kept()[1][0]?.copies.across_mm).toBe(5);
    type("Seed", "12");
    expect(kept()[1][0]?.copies.seed).toBe(12);
    type("Copies", "500");
    expect(screen.getByRole("alert").textContent).toBe("1 to 400 would be accepted.");
    expect(keep).not.toHaveBeenCalled();
  });
});

describe("the region it keeps to", () => {
  const pick = (more: Partial<Decoration["pick"]>) => ({ ...decoration("x").pick, ...more });
  const open = (more: Partial<Decoration> = {}) => {
    cards([decoration("one", more)]);
    act(() => useDecorStore.getState().set({ chosen: "one" }));
  };

  test("starts from where the decoration lies, and is given up again", () => {
    open({ at: [1, 2, 3] });
    choose("Region it keeps to", "faces");
    expect(kept()[1][0]?.pick).toMatchObject({ kind: "faces", places: [[1, 2, 3]] });
    cleanup();
    open({ pick: pick({ kind: "faces", places: [[1, 2, 3]] }) });
    type("Sharpest edge passed", "45");
    expect(kept()[1][0]?.pick).toMatchObject({ kind: "faces", most_deg: 45, places: [[1, 2, 3]] });
    press("Everywhere");
    expect(kept()[1][0]?.pick).toMatchObject({ kind: "free", places: [] });
  });

  test("takes the pick in hand and lays it down", () => {
    open({ pick: pick({ kind: "brush", places: [[0, 0, 0]] }) });
    press("Pick on the model");
    expect(useDecorStore.getState().tool).toBe("pick");
    expect(screen.getByRole("button", { name: "Pick on the model" }).getAttribute("aria-pressed")).toBe("true");
    press("Pick on the model");
    expect(useDecorStore.getState().tool).toBeNull();
  });

  test("is drawn first where it is to be encircled", () => {
    open();
    choose("Region it keeps to", "lasso");
    expect(useDecorStore.getState().tool).toBe("lasso");
    expect(screen.getByText("Draw round a part of the model.")).toBeTruthy();
    expect(keep).not.toHaveBeenCalled();
  });
});

describe("the brush", () => {
  test("works on the model itself where nothing is laid on, and on decorations alone at first where something is", () => {
    cards([]);
    expect(screen.getByText("Over edges and all.")).toBeTruthy();
    cleanup();
    cards([decoration("one")]);
    expect(screen.getByText("What is beside decorations stays as it came.")).toBeTruthy();
  });

  test("a typed height says all, so no strength is asked for", () => {
    useBrush.getState().choose({ tool: "carve", amount_mm: 0 });
    cards([decoration("one")]);
    expect(screen.getAllByText("Profile")[0]).toBeTruthy();
    cleanup();
    useBrush.getState().choose({ tool: "raise", amount_mm: 2 });
    cards([decoration("one")]);
    expect(screen.queryByLabelText("Strength")).toBeNull();
    useBrush.getState().choose({ tool: "smooth", amount_mm: 0 });
  });

  test("keeps to a region once one is drawn", () => {
    cards([]);
    fireEvent.change(screen.getByLabelText("Where it works"), { target: { value: "region" } });
    expect(useDecorStore.getState().tool).toBe("fence");
    expect(screen.getByRole("button", { name: "Take the brush" })).toHaveProperty("disabled", true);
    act(() => useBrush.getState().choose({ region: { kind: "lasso", places: [[0, 0, 0], [1, 0, 0], [1, 1, 0]], most_deg: 30, radius_mm: 3 } }));
    expect(screen.getByRole("button", { name: "Take the brush" })).toHaveProperty("disabled", false);
    press("Forget it");
    expect(useBrush.getState().how.region).toMatchObject({ kind: "free", places: [] });
    useBrush.getState().choose({ within: "everywhere" });
  });

  test("is taken and laid down, and its last stroke taken back", () => {
    const strokes = ["raise", "smooth"].map((tool) => freshStroke({ ...useBrush.getState().how, tool: tool as Stroke["tool"] }, [[0, 0, 0]]));
    cards([decoration("one")], strokes);
    press("Take the brush");
    expect(useDecorStore.getState().tool).toBe("brush");
    press("Brush in hand");
    expect(useDecorStore.getState().tool).toBeNull();
    press("Take the last of 2 back");
    expect(keep).toHaveBeenCalledExactlyOnceWith("Last stroke taken back", { strokes: strokes.slice(0, 1) });
  });
});

test("another piece on the same page has a hand of its own", () => {
  const { rerender } = cards([]);
  const before = useHandStore.getState().hand;
  const document = { title: "Dome", decorations: [], strokes: [], thinnest_wall_mm: 0.8, model: { size_mm: [8, 8, 6] } } as unknown as ModelDocument;
  rerender(<DecorateCards pieceId="p2" revision={1} document={document} editing={{ keep, drag }} />);
  const { hand } = useHandStore.getState();
  expect(before).not.toBeNull();
  expect(hand).not.toBeNull();
  expect(hand).not.toBe(before);
});
