// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../../testing/server";
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { AssemblyDocument } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import { onPage, freshClient } from "../../testing/page";
import { dragOver, PLAN } from "../../testing/plan";
import { movedPart, movedTo, withPart, type PlacedPart } from "./assemblyEdits";
import { usePartsStore } from "../../state/partsStore";
import { PartHandles } from "./PartHandles";
import { PartsStation } from "./PartsStation";

const part = (id: string, more: object = {}) =>
  ({ id, on: true, name: id, how: "join", stands: "free", x_mm: 0, y_mm: 0, z_mm: 0, sink_mm: 0.05, turn_x_deg: 0, turn_y_deg: 0, turn_z_deg: 0, scale: 1, copies: 1, spread: "row", step_x_mm: 10, step_y_mm: 0, colour_on: false, colour: "#c9b79c", source: { kind: "piece", piece_id: "bust", follow: true, document: {} }, ...more }) as unknown as PlacedPart;
const whole = (...assembly: PlacedPart[]) => ({ title: "Whole", assembly, objects: "one", steps: [], decorations: [] }) as unknown as AssemblyDocument;
const keep = vi.fn();
const editing = { keep, drag: vi.fn() };

beforeEach(() => {
  freshServer();
  on("GET /api/pieces", [{ id: "bust", title: "Bust", body: "Model", maker: "", size_mm: [1, 1, 1], changed: "", created: "", tags: [], revision: 1 }, { id: "me", title: "Whole", body: "", maker: "", size_mm: [1, 1, 1], changed: "", created: "", tags: [], revision: 1 }]);
  on("GET /api/filaments", [{ id: 1, name: "Moss", colour: "#5b7c6a" }]);
  useBenchStore.setState({ opId: null });
});
afterEach(() => {
  cleanup();
  keep.mockReset();
});

const station = (document: AssemblyDocument) =>
  render(<PartsStation pieceId="me" revision={4} document={document} editing={editing} />, { wrapper: onPage(freshClient(), "assembly") });
const kept = () => keep.mock.calls.at(-1)?.[1] as { assembly: PlacedPart[] };

test("edits of the list leave the other parts alone", () => {
  const [a, b, c] = [part("a"), part("b"), part("c")] as const;
  expect(withPart([a, b], "b", { x_mm: 3 })).toEqual([a, { ...b, x_mm: 3 }]);
  expect(movedPart([a, b, c], "c", -1).map(({ id }) => id)).toEqual(["a", "c", "b"]);
  expect(movedPart([a, b, c], "a", -1)).toEqual([a, b, c]);
  expect(movedTo(part("a", { x_mm: 1, y_mm: 2 }), { x: 0.123, y: -0.456 })).toEqual({ x_mm: 1.12, y_mm: 1.54 });
});

describe("the parts", () => {
  test("that things are set on come first, and what stood on the ground stands on them", async () => {
    station(whole(part("bust", { x_mm: 12, y_mm: 5 })));
    await act(async () => fireEvent.click(screen.getByRole("button", { name: /Add a ready part/ })));
    await act(async () => fireEvent.click(screen.getByRole("button", { name: "Disc" })));
    const [disc, bust] = kept().assembly;
    expect(disc).toMatchObject({ name: "Disc", stands: "free", x_mm: 12, y_mm: 5, source: { kind: "ready", shape: "disc" } });
    expect(bust).toMatchObject({ id: "bust", stands: "on" });
    expect(useBenchStore.getState().opId).toBe(disc?.id);
  });

  test("like pegs stand on top of the others", async () => {
    station(whole(part("base")));
    await act(async () => fireEvent.click(screen.getByRole("button", { name: /Add a ready part/ })));
    await act(async () => fireEvent.click(screen.getByRole("button", { name: "Peg" })));
    expect(kept().assembly.map(({ id, stands }) => [id === "base", stands])).toEqual([[true, "free"], [false, "on"]]);
  });

  test("of the shelf are added by the server; the whole itself is not offered, and a refusal is told", async () => {
    on("GET /api/pieces/me", { id: "me", revision: 4 });
    on("POST /api/pieces/me/parts", () => ({ status: 409, json: { message: "A piece cannot be a part of itself." } }));
    station(whole(part("base")));
    await act(async () => fireEvent.click(screen.getByRole("button", { name: /Add a piece/ })));
    expect(screen.queryByRole("button", { name: /^Whole/ })).toBeNull();
    await act(async () => fireEvent.click(await screen.findByRole("button", { name: /^Bust/ })));
    expect(askedOf("POST /api/pieces/me/parts")).toEqual([{ base: 4, piece_id: "bust" }]);
    expect((await screen.findByRole("alert")).textContent).toContain("part of itself");
  });

  test("are lined up with the first, painted from the shelf's colours, and let go of their piece", async () => {
    useBenchStore.setState({ opId: "top" });
    station(whole(part("base", { x_mm: 7, y_mm: 8 }), part("top", { colour_on: true })));
    fireEvent.click(screen.getByRole("button", { name: "Line up with base" }));
    expect(kept().assembly[1]).toMatchObject({ x_mm: 7, y_mm: 8 });
    await act(async () => fireEvent.click(await screen.findByRole("button", { name: "Moss" })));
    expect(kept().assembly[1]).toMatchObject({ colour: "#5b7c6a" });
    fireEvent.click(screen.getByLabelText("Follows its piece"));
    expect(kept().assembly[1]?.source).toMatchObject({ follow: false, piece_id: "bust" });
  });

  test("are copied with an id of their own, moved in the list, switched off and removed", () => {
    useBenchStore.setState({ opId: "a" });
    station(whole(part("a"), part("b")));
    fireEvent.click(screen.getByRole("button", { name: "Another one like it: a" }));
    expect(new Set(kept().assembly.map(({ id }) => id)).size).toBe(3);
    fireEvent.click(screen.getByRole("button", { name: "b: earlier" }));
    expect(kept().assembly.map(({ id }) => id)).toEqual(["b", "a"]);
    fireEvent.click(screen.getByLabelText("a on"));
    expect(kept().assembly[0]).toMatchObject({ on: false });
    fireEvent.click(screen.getByRole("button", { name: "Remove: a" }));
    expect(kept().assembly.map(({ id }) => id)).toEqual(["b"]);
  });
});

describe("on the Plan", () => {
  const handles = (document: AssemblyDocument) => render(<svg><PartHandles document={document} editing={editing} geometry={PLAN} /></svg>, { wrapper: onPage() });

  test("a part is moved by its middle, once it is let go of", () => {
    handles(whole(part("Peg", { x_mm: 0.5, y_mm: 0.5 })));
    dragOver(screen.getByTestId("part-Peg"), [30, 20], [36, 24], [40, 26]);
    expect(keep).toHaveBeenCalledTimes(1);
    expect(kept().assembly[0]).toMatchObject({ x_mm: 10.5, y_mm: 6.5 });
    expect(useBenchStore.getState().opId).toBe("Peg");
  });

  test("only the part that is worked on has an arm to turn it by", () => {
    useBenchStore.setState({ opId: "a" });
    handles(whole(part("a"), part("b"), part("c", { on: false })));
    expect(screen.getAllByTestId("part-arm")).toHaveLength(1);
    expect(screen.queryByTestId("part-c")).toBeNull();
  });
});

test("in the Model the hand holds the parts that are shown, and what it moves is kept", () => {
  const { unmount } = station(whole(part("a", { x_mm: 1, y_mm: 2 }), part("b", { on: false }), part("c", { stands: "on", z_mm: 9 })));
  expect(usePartsStore.getState().parts.map(({ id, z_mm }) => [id, z_mm])).toEqual([["a", 0], ["c", 0]]);
  usePartsStore.getState().move?.("a", { x: 4.5, y: -1 });
  expect(kept().assembly[0]).toMatchObject({ x_mm: 5.5, y_mm: 1 });
  unmount();
  expect(usePartsStore.getState()).toMatchObject({ parts: [], move: null });
});
