// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../../../../testing/server";
import { act, cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { LaidRelief, PanelDocument } from "../../../../api/client";
import { useBenchStore } from "../../../../state/benchStore";
import { freshClient, onPage } from "../../../../testing/page";
import { dragOver, PLAN } from "../../../../testing/plan";
import { begun, drag, editing, keep, kept, part, pieceOf, type } from "../../../../testing/stations";
import { LaidCard } from "./LaidCard";
import { laidAt, movedLaid, placeOf, reachingTo, withLaid } from "./laidEdits";
import { LaidTool } from "./LaidTool";

const laid = (id: string, more: object = {}) =>
  part("LaidRelief", { id, name: id, source: { kind: "picture", blob: "a".repeat(64), name: `${id}.png`, motif: null }, rule: part("HeightRule"), ...more }) as unknown as LaidRelief;
const documentOf = (...reliefs: LaidRelief[]) => begun("PanelDocument", { height: { laid: reliefs } }) as unknown as PanelDocument;
const keptIn = () => (kept()[1] as { height: { laid: LaidRelief[] } }).height.laid;

beforeEach(() => {
  freshServer();
  on("GET /api/motifs?words=", [{ id: "m", name: "Acorn", tags: [], picture_blob: "b".repeat(64), drawing_blob: null, width_mm: 20, height_mm: 20, changed: "", created: "" }]);
  on("GET /api/pieces", [
    { id: "leaf", title: "Leaf", body: "Relief panel", maker: "", size_mm: [1, 1, 1], changed: "", created: "", tags: [], revision: 1 },
    { id: "p1", title: "Shield", body: "", maker: "", size_mm: [1, 1, 1], changed: "", created: "", tags: [], revision: 1 },
  ]);
  useBenchStore.setState({ opId: null, unit: "mm" });
});
afterEach(() => {
  cleanup();
  keep.mockReset();
  drag.mockReset();
});

function card(...reliefs: LaidRelief[]) {
  const document = documentOf(...reliefs);
  const piece = pieceOf("panel", document as unknown as Record<string, unknown>);
  return render(<LaidCard piece={piece} pieceId="p1" revision={7} document={document} editing={editing} />, { wrapper: onPage(freshClient(), "panel") });
}

test("edits of the list leave the others alone, and places come back as they went", () => {
  const [a, b, c] = [laid("a"), laid("b"), laid("c")] as const;
  expect(withLaid([a, b], "b", { lift_mm: 3 })).toEqual([a, { ...b, lift_mm: 3 }]);
  expect(movedLaid([a, b, c], "c", -1).map(({ id }) => id)).toEqual(["a", "c", "b"]);
  expect(movedLaid([a, b, c], "a", -1)).toEqual([a, b, c]);
  const size = [60, 40] as const;
  const turned = laid("t", { x_share: 0.25, y_share: 0.75, width_mm: 20, turn_deg: 90 });
  const { middle, end } = placeOf(turned, size);
  expect(middle).toEqual({ x: 15, y: 30 });
  expect(end.x).toBeCloseTo(15);
  expect(end.y).toBeCloseTo(40);
  expect(laidAt(middle, size)).toEqual({ x_share: 0.25, y_share: 0.75 });
  expect(laidAt({ x: 1e9, y: -1e9 }, size)).toEqual({ x_share: 2, y_share: -1 });
  expect(reachingTo(end, middle)).toEqual({ width_mm: 20, turn_deg: 90 });
  expect(reachingTo(middle, middle).width_mm).toBe(0.2);
});

describe("the card", () => {
  test("lays on what the piece is by then, where an edit was on its way", async () => {
    const newer = { ...pieceOf("panel", documentOf(laid("one")) as unknown as Record<string, unknown>), revision: 9 };
    on("POST /api/pieces/p1/parts", () =>
      askedOf("POST /api/pieces/p1/parts").length === 1 ? { status: 409, json: { message: "The piece was changed elsewhere." } } : { status: 201, json: { ...newer, revision: 10 } },
    );
    on("GET /api/pieces/p1", newer);
    card();
    await act(async () => fireEvent.click(screen.getByRole("button", { name: "A piece" })));
    await act(async () => fireEvent.click(await screen.findByRole("button", { name: /^Leaf/ })));
    await waitFor(() => expect(askedOf("POST /api/pieces/p1/parts")).toEqual([{ base: 7, piece_id: "leaf" }, { base: 9, piece_id: "leaf" }]));
    expect(screen.queryByRole("alert")).toBeNull();
  });

  test("lays motifs and pieces, which the server decides about; a refusal is told", async () => {
    on("GET /api/pieces/p1", { ...pieceOf("panel", documentOf() as unknown as Record<string, unknown>), revision: 7 });
    on("POST /api/pieces/p1/reliefs", () => ({ status: 409, json: { message: "The piece was changed elsewhere." } }));
    card();
    await waitFor(() => expect((screen.getByRole("button", { name: "A motif" }) as HTMLButtonElement).disabled).toBe(false));
    await act(async () => fireEvent.click(screen.getByRole("button", { name: "A motif" })));
    await act(async () => fireEvent.click(await screen.findByRole("button", { name: "Acorn" })));
    expect(askedOf("POST /api/pieces/p1/reliefs")).toEqual([{ base: 7, blob: "b".repeat(64), name: "Acorn", motif: "m" }]);
    expect((await screen.findByRole("alert")).textContent).toContain("changed elsewhere");
    await act(async () => fireEvent.click(screen.getByRole("button", { name: "A piece" })));
    expect(screen.queryByRole("button", { name: /^Shield/ })).toBeNull();
    on("POST /api/pieces/p1/parts", () => ({ status: 201, json: pieceOf("panel", documentOf(laid("one"), laid("new")) as unknown as Record<string, unknown>) }));
    await act(async () => fireEvent.click(await screen.findByRole("button", { name: /^Leaf/ })));
    expect(askedOf("POST /api/pieces/p1/parts")).toEqual([{ base: 7, piece_id: "leaf" }]);
    expect(useBenchStore.getState().opId).toBe("new");
  });

  test("changes, moves and removes", () => {
    card(laid("shield"), laid("crest"));
    fireEvent.click(screen.getByRole("button", { name: "shield: higher in the order" }));
    expect(keptIn().map(({ id }) => id)).toEqual(["crest", "shield"]);
    fireEvent.click(screen.getByRole("button", { name: "Remove: shield" }));
    expect(keptIn().map(({ id }) => id)).toEqual(["crest"]);
    fireEvent.click(screen.getByRole("button", { name: "Change crest" }));
    expect(useBenchStore.getState().opId).toBe("crest");
    type("Width", "22");
    expect(keptIn()[1]).toMatchObject({ id: "crest", width_mm: 22 });
    type("Relief height", "2.5");
    expect(keptIn()[1]?.rule).toMatchObject({ relief_mm: 2.5, kind: "straight" });
  });

  test("offers what counts: the width of merging, the steps of a rule, what is left out of pictures only", () => {
    useBenchStore.setState({ opId: "a" });
    card(laid("a"));
    expect(screen.queryByLabelText("It merges over")).toBeNull();
    expect(screen.getByText("Of its picture is left out")).toBeTruthy();
    expect(screen.queryByRole("group", { name: "Table of steps" })).toBeNull();
    cleanup();
    const source = { kind: "piece", piece_id: "leaf", follow: true, document: {} };
    card(laid("a", { blend: "merge", source, rule: { ...part("HeightRule"), kind: "steps" } }));
    expect(screen.getByLabelText("It merges over")).toBeTruthy();
    expect(screen.queryByText("Of its picture is left out")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Add a step" }));
    expect(keptIn()[0]?.rule.steps).toHaveLength(3);
    fireEvent.click(screen.getByLabelText("Follows its piece"));
    expect(keptIn()[0]?.source).toMatchObject({ kind: "piece", follow: false });
    expect(screen.getByRole("link", { name: "Open it" }).getAttribute("href")).toBe("/piece/leaf");
  });
});

describe("on the Plan", () => {
  const plan = (...reliefs: LaidRelief[]) => render(<svg><LaidTool document={documentOf(...reliefs)} editing={editing} geometry={PLAN} /></svg>, { wrapper: onPage(undefined, "panel") });

  test("its middle is moved while it is seen, and kept once", () => {
    plan(laid("crest", { width_mm: 20 }));
    dragOver(screen.getByTestId("laid-crest"), [30, 20], [36, 20], [36, 12]);
    expect(useBenchStore.getState().opId).toBe("crest");
    expect(drag).toHaveBeenCalled();
    expect(keep).toHaveBeenCalledTimes(1);
    expect(kept()[0]).toBe("crest moved");
    expect(keptIn()[0]).toMatchObject({ x_share: 0.6, y_share: 0.3, width_mm: 20 });
  });

  test("the end of the one that is worked on widens and turns it; others have none", () => {
    useBenchStore.setState({ opId: "b" });
    plan(laid("a"), laid("b", { width_mm: 20 }), laid("off", { on: false }));
    expect(screen.queryByTestId("laid-off")).toBeNull();
    expect(screen.getAllByTestId("laid-end")).toHaveLength(1);
    dragOver(screen.getByTestId("laid-end"), [40, 20], [30, 35]);
    expect(keptIn()[1]).toMatchObject({ id: "b", width_mm: 30, turn_deg: 90 });
    expect(keptIn()[0]).toEqual(laid("a"));
  });
});
