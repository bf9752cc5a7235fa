// @vitest-environment happy-dom
import { freshServer, on } from "../../testing/server";
import { cleanup, fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { FigureDocument } from "../../api/client";
import type { Plan } from "../../api/preview";
import { useBenchStore } from "../../state/benchStore";
import { useDepthStore } from "../../state/depthStore";
import { onPage, useShowing } from "../../testing/page";
import { dragOver, PLAN } from "../../testing/plan";
import { begun, drag, editing, keep, kept, otherwise, part, pieceOf, show, type, typedIn } from "../../testing/stations";
import { patchAt } from "../common/fields/patchAt";
import { DepthTool, StrokeMarks } from "../common/depth/DepthTools";
import { FigureStation } from "./FigureStation";
import { MirrorLine } from "./MirrorLine";

const NEAR = part("FigureStroke", { id: "s1", kind: "nearer", places: [[0.5, 0.5, 1], [0.6, 0.5, 1]], amount_mm: 6 });
const HOLE = part("FigureStroke", { id: "s2", kind: "hole", places: [[0.2, 0.2, 1]] });
const SHAPES = [{ name: "panel", title: "Relief panel" }, { name: "figure", title: "Figure in the round" }];

beforeEach(() => {
  freshServer();
  useBenchStore.setState({ unit: "mm", draft: null, brush: { sizeMm: 5, hardness: 0.8, inside: true, straight: false } });
  useDepthStore.setState({ kind: null, amountMm: 6 });
  useShowing.setState({ finishedMm: [60, 70, 30] } as never);
});
afterEach(() => {
  cleanup();
  keep.mockReset();
  drag.mockReset();
  useShowing.setState({}, true);
});

const documentOf = (figure: object = {}) => begun("FigureDocument", { figure }) as unknown as FigureDocument;
function station(figure: object = {}) {
  const document = documentOf(figure);
  show(<FigureStation piece={pieceOf("figure", document as never, SHAPES)} pieceId="p1" revision={1} document={document} editing={editing} />, "figure");
  return document;
}
const button = (name: string) => screen.getByRole<HTMLButtonElement>("button", { name });

describe("every number of a figure is kept at its place", () => {
  test.each([
    ["round, by its share", { depth: { by: "share" } }, ["figure", "figure.depth"]],
    ["flat, in millimetres, bulged behind", { depth: { by: "mm", profile: "flat" }, back: { kind: "bulge" } }, ["figure.depth", "figure.back"]],
    ["after a depth picture", { depth: { kind: "picture", blob: "1".repeat(64), name: "d.png" } }, ["figure.depth"]],
  ])("%s", (_, figure, parts) => {
    const document = station(figure);
    for (const at of parts) {
      for (const { field, place } of typedIn("FigureDocument", document as never, at)) {
        const value = place.split(".").reduce<unknown>((held, name) => (held as Record<string, unknown>)[name], document) as number;
        const { text, number } = otherwise(field, value);
        type(field.label, text);
        expect(keep.mock.lastCall?.[1], place).toEqual(patchAt(place, number));
      }
    }
    expect(keep.mock.calls.length).toBeGreaterThan(1);
  });
});

describe("the station", () => {
  test("tells how large the figure is, beside the width of its whole picture", () => {
    station();
    expect(screen.getByTestId("figure-size").textContent).toBe("The figure is60.00 mm × 70.00 mm × 30.00 mm");
  });

  test("says what each choice means", () => {
    station({ back: { kind: "flat" }, depth: { profile: "soft" } });
    expect(screen.getByText(/it lies on a table/)).toBeTruthy();
    expect(screen.getByText(/as a pillow does/)).toBeTruthy();
    expect(screen.queryByLabelText("Of the front")).toBeNull();
  });

  test("takes depths from a picture, and lets it go again", async () => {
    on("POST /api/pictures", { blob: "2".repeat(64), name: "depths.png" });
    station({ depth: { kind: "picture" } });
    fireEvent.change(screen.getByLabelText(/A picture of depths/), { target: { files: [new File(["x"], "depths.png")] } });
    await waitFor(() => expect(keep).toHaveBeenCalled());
    expect(kept()).toEqual(["Depth by depths.png", { figure: { depth: { kind: "picture", blob: "2".repeat(64), name: "depths.png" } } }]);
    cleanup();
    station({ depth: { kind: "picture", blob: "2".repeat(64), name: "depths.png" } });
    fireEvent.click(button("Take away"));
    expect(kept()[1]).toEqual({ figure: { depth: { kind: "swell", blob: null, name: null, behind_blob: null, behind_name: null } } });
  });

  test("takes a picture of the back, and lets it go again", async () => {
    on("POST /api/pictures", { blob: "4".repeat(64), name: "back.png" });
    station();
    fireEvent.change(screen.getByLabelText(/A picture of the back/), { target: { files: [new File(["x"], "back.png")] } });
    await waitFor(() => expect(keep).toHaveBeenCalled());
    expect(kept()).toEqual(["Picture of the back back.png", { figure: { back: { blob: "4".repeat(64), name: "back.png" } } }]);
    cleanup();
    station({ back: { blob: "4".repeat(64), name: "back.png" } });
    fireEvent.click(button("Take it away"));
    expect(kept()[1]).toEqual({ figure: { back: { blob: null, name: null } } });
  });

  test("has a plinth's numbers only where there is one", () => {
    station({ foot: { on: true, plinth: "oval" } });
    type("Height of the plinth", "6");
    expect(kept()[1]).toEqual({ figure: { foot: { plinth_mm: 6 } } });
    cleanup();
    station({ foot: { on: true, plinth: "none" } });
    expect(screen.queryByLabelText("Height of the plinth")).toBeNull();
    expect(screen.getByLabelText("Above its lowest place")).toBeTruthy();
  });

  test("shows few colours only where there are colours", () => {
    station({ colour: { on: true } });
    expect(screen.getByRole("region", { name: "Few colours" })).toBeTruthy();
    cleanup();
    station({ colour: { on: false } });
    expect(screen.queryByRole("region", { name: "Few colours" })).toBeNull();
  });

  test("shows of every source of depth only what it needs", () => {
    station({ depth: { kind: "light" } });
    expect(screen.getByText(/turn the swollen front/)).toBeTruthy();
    expect(screen.getByLabelText("Tones turn the front by")).toBeTruthy();
    expect(screen.queryByLabelText("From furthest to nearest")).toBeNull();
    expect(screen.queryByLabelText(/where it is unsure/)).toBeNull();
  });
});

describe("by hand", () => {
  test("a kind of stroke is chosen, says what it does, and is put away", () => {
    station();
    fireEvent.click(button("Nearer"));
    expect(useDepthStore.getState().kind).toBe("nearer");
    expect(screen.getByText(/comes forward, up to the edges/)).toBeTruthy();
    fireEvent.click(button("Nearer"));
    expect(useDepthStore.getState().kind).toBeNull();
  });

  test("its width and amount are typed before it is drawn; a hole has no amount", () => {
    station();
    fireEvent.click(button("Thicker"));
    type("Width", "9");
    type("Amount", "2.5");
    expect([useBenchStore.getState().brush.sizeMm, useDepthStore.getState().amountMm]).toEqual([9, 2.5]);
    fireEvent.click(button("Hole"));
    expect(screen.queryByLabelText("Amount")).toBeNull();
  });

  test("is given up when one leaves the station", () => {
    station();
    fireEvent.click(button("Ridge"));
    cleanup();
    expect(useDepthStore.getState().kind).toBeNull();
  });

  test("strokes are listed, switched, changed and removed one by one", () => {
    station({ strokes: [NEAR, HOLE] });
    const [first, second] = [screen.getByRole("region", { name: "Nearer, stroke 1" }), screen.getByRole("region", { name: "Hole, stroke 2" })];
    expect(within(second).queryByLabelText("Amount")).toBeNull();
    fireEvent.click(within(first).getByLabelText("Nearer on"));
    expect(kept()).toEqual(["Nearer off", { figure: { strokes: [{ ...NEAR, on: false }, HOLE] } }]);
    const amount = within(first).getByLabelText("Amount");
    fireEvent.change(amount, { target: { value: "3" } });
    fireEvent.keyDown(amount, { key: "Enter" });
    expect(kept()[1]).toEqual({ figure: { strokes: [{ ...NEAR, amount_mm: 3 }, HOLE] } });
    fireEvent.click(button("Remove stroke 2"));
    expect(kept()).toEqual(["Hole removed", { figure: { strokes: [NEAR] } }]);
  });
});

describe("the line of symmetry", () => {
  const draw = (symmetry: object) =>
    render(<svg><MirrorLine document={documentOf({ symmetry })} editing={editing} geometry={PLAN} /></svg>, { wrapper: onPage(undefined, "figure") });

  test("is on the Plan only where it is drawn by hand", () => {
    draw({ on: true, by: "outline" });
    draw({ on: false, by: "hand" });
    expect(screen.queryByTestId("mirror-line")).toBeNull();
  });

  test("is moved and leant by its ends", () => {
    draw({ on: true, by: "hand", at: 0.5, lean_deg: 0 });
    dragOver(screen.getByTestId("mirror-high"), [30, 40], [24, 40]);
    expect(drag).toHaveBeenCalledTimes(1);
    expect(kept()).toEqual(["Line of symmetry moved", { figure: { symmetry: { at: 0.45, lean_deg: 8.5 } } }]);
  });

  test("stays on the figure, and never lies down", () => {
    draw({ on: true, by: "hand", at: 0.9, lean_deg: 0 });
    dragOver(screen.getByTestId("mirror-low"), [54, 0], [300, 0]);
    expect(kept()[1]).toEqual({ figure: { symmetry: { at: 1, lean_deg: 60 } } });
  });
});

describe("on the Plan", () => {
  const draw = (strokes: object[] = []) => {
    const document = documentOf({ strokes });
    return render(
      <svg>
        <StrokeMarks at="figure" document={document} geometry={PLAN} />
        <DepthTool at="figure" document={document} editing={editing} geometry={PLAN} />
      </svg>,
      { wrapper: onPage(undefined, "figure") },
    );
  };
  const source = (matrix: number[][]) => useShowing.setState({ plan: { head: { from_source: matrix, size_mm: [60, 40] } } as unknown as Plan });

  test("nothing is drawn until a kind is chosen", () => {
    draw([NEAR]);
    expect(screen.queryByTestId("stroke-surface")).toBeNull();
    expect(screen.getByTestId("depth-strokes").querySelectorAll("path")).toHaveLength(1);
  });

  test("a stroke is kept with its kind, its width and its amount, in shares of the source", () => {
    source([[0.5, 0, 0], [0, 1, 0], [0, 0, 1]]);
    useDepthStore.setState({ kind: "farther", amountMm: 3 });
    draw([NEAR]);
    dragOver(screen.getByTestId("stroke-surface"), [6, 20], [12, 20]);
    const [label, change] = kept() as [string, { figure: { strokes: Record<string, unknown>[] } }];
    expect(label).toBe("Farther");
    expect(change.figure.strokes[0]).toEqual(NEAR);
    expect(change.figure.strokes[1]).toMatchObject({ kind: "farther", size_mm: 5, amount_mm: 3, on: true });
    expect(change.figure.strokes[1]?.id).toBeTruthy();
    expect(change.figure.strokes[1]?.places).toEqual([[expect.closeTo(0.2, 6), expect.closeTo(0.5, 6), 1], [expect.closeTo(0.4, 6), expect.closeTo(0.5, 6), 1]]);
  });

  test("strokes that are switched off are not seen, a touch is", () => {
    draw([{ ...NEAR, on: false }, HOLE]);
    const paths = [...screen.getByTestId("depth-strokes").querySelectorAll("path")];
    expect(paths).toHaveLength(1);
    expect(paths[0]?.getAttribute("d")).toMatch(/h0\.1$/);
  });
});
