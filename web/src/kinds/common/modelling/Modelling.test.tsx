// @vitest-environment happy-dom
import { freshServer } from "../../../testing/server";
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { HeightStroke, LithophaneDocument, PanelDocument } from "../../../api/client";
import type { Plan } from "../../../api/preview";
import { useBenchStore } from "../../../state/benchStore";
import { useHandStore } from "../../../state/handStore";
import { useModellingStore } from "../../../state/modellingStore";
import { onPage, useShowing } from "../../../testing/page";
import { dragOver, PLAN } from "../../../testing/plan";
import { begun, drag, editing, keep, kept, part, show, type } from "../../../testing/stations";
import { ModellingCard } from "./ModellingCard";
import { ModellingTool } from "./ModellingTool";
import { useModelling } from "./useModelling";

const AT = "height.hand.strokes";
const RAISED = part("HeightStroke", { id: "s1", tool: "raise", places: [[0.5, 0.5, 1]], amount_mm: 0.3 });
const SMOOTHED = part("HeightStroke", { id: "s2", tool: "smooth", places: [[0.2, 0.5, 1]] });

beforeEach(() => {
  freshServer();
  useBenchStore.setState({ unit: "mm", draft: null, brush: { sizeMm: 6, hardness: 0.8, inside: true, straight: false } });
  useModellingStore.setState({ tool: null, how: { amount_mm: 0.3, strength: 0.5, hardness: 0.3, profile: "V", mirror: "none" } });
  useShowing.setState({ plan: { head: { size_mm: [60, 40, 4], from_source: [[1, 0, 0.5], [0, 1, 0], [0, 0, 1]] } } as unknown as Plan });
});
afterEach(() => {
  cleanup();
  keep.mockReset();
  drag.mockReset();
  useShowing.setState({}, true);
});

const documentOf = (...strokes: object[]) => begun("PanelDocument", { height: { hand: { strokes } } }) as unknown as PanelDocument;
const card = (...strokes: object[]) => show(<ModellingCard document={documentOf(...strokes)} editing={editing} at={AT} />, "panel");
const strokesIn = (change: unknown) => (change as { height: { hand: { strokes: HeightStroke[] } } }).height.hand.strokes;

function OverPlan({ document }: { document: PanelDocument }) {
  return <ModellingTool geometry={PLAN} modelling={useModelling(document, editing, AT)} />;
}
const plan = (...strokes: object[]) => render(<svg><OverPlan document={documentOf(...strokes)} /></svg>, { wrapper: onPage(undefined, "panel") });

describe("the card", () => {
  test("offers what the tool at hand needs, and nothing else", () => {
    card();
    expect(screen.queryByLabelText("Width")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Line" }));
    expect(screen.getByLabelText("By")).toBeTruthy();
    expect(screen.getByRole("radio", { name: "Bead" })).toBeTruthy();
    expect(screen.queryByLabelText("Strength")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Smooth" }));
    expect(screen.queryByLabelText("By")).toBeNull();
    type("Strength", "80 %");
    type("Width", "9");
    expect(useModellingStore.getState().how.strength).toBe(0.8);
    expect(useBenchStore.getState().brush.sizeMm).toBe(9);
    expect(keep).not.toHaveBeenCalled();
  });

  test("puts the tool down where it is pressed again, and when it goes", () => {
    const { unmount } = card();
    fireEvent.click(screen.getByRole("button", { name: "Raise" }));
    expect(useModellingStore.getState().tool).toBe("raise");
    fireEvent.click(screen.getByRole("button", { name: "Raise" }));
    expect(useModellingStore.getState().tool).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Pull" }));
    unmount();
    expect(useModellingStore.getState().tool).toBeNull();
  });

  test("changes, switches off, removes and takes back strokes", () => {
    card(RAISED, SMOOTHED);
    type("By", "0.8");
    expect(strokesIn(kept()[1])[0]).toMatchObject({ id: "s1", amount_mm: 0.8 });
    fireEvent.click(screen.getByRole("button", { name: "Remove stroke 1" }));
    expect(strokesIn(kept()[1]).map(({ id }) => id)).toEqual(["s2"]);
    fireEvent.click(screen.getByRole("button", { name: "Take the last of 2 back" }));
    expect(strokesIn(kept()[1]).map(({ id }) => id)).toEqual(["s1"]);
  });
});

describe("over the Plan", () => {
  test("nothing is drawn until a tool is at hand", () => {
    plan();
    expect(screen.queryByTestId("stroke-surface")).toBeNull();
  });

  test("a stroke is seen while it is drawn and kept once, in shares of the piece, however its picture lies", () => {
    useModellingStore.setState({ tool: "carve" });
    plan(RAISED);
    dragOver(screen.getByLabelText("Line"), [12, 20], [24, 20], [30, 10]);
    expect(drag.mock.calls.length).toBeGreaterThan(1);
    expect(keep).toHaveBeenCalledTimes(1);
    const [words, change] = kept();
    expect(words).toBe("Line");
    const [first, drawn] = strokesIn(change);
    expect(first?.id).toBe("s1");
    expect(drawn).toMatchObject({ tool: "carve", size_mm: 6, amount_mm: 0.3, profile: "V", mirror: "none" });
    expect(drawn?.places).toEqual([[0.2, 0.5, 1], [0.4, 0.5, 1], [0.5, 0.25, 1]]);
    // The draft while it was drawn was of the same stroke.
    expect(strokesIn(drag.mock.calls[0]?.[0])[1]?.id).toBe(drawn?.id);
  });
});

describe("on the Model", () => {
  test("the hand draws in the same frame, and the model does not turn meanwhile", () => {
    useModellingStore.setState({ tool: "raise" });
    plan();
    const { hand, busy } = useHandStore.getState();
    expect(busy).toBe(true);
    act(() => {
      hand?.move([1, 1, 0], true, 1);
      hand?.press([15, 10, 3], 1);
      hand?.move([30, 20, 2], true, 1);
      hand?.release();
      hand?.release();
    });
    expect(keep).toHaveBeenCalledTimes(1);
    expect(strokesIn(kept()[1])[0]?.places).toEqual([[0.25, 0.25, 1], [0.5, 0.5, 1]]);
  });

  test("is free again once the tool is put down", () => {
    useModellingStore.setState({ tool: "raise" });
    plan();
    act(() => useModellingStore.setState({ tool: null }));
    expect(useHandStore.getState()).toMatchObject({ hand: null, busy: false });
  });
});

describe("on a sheet that is bent", () => {
  const sheetOf = (...strokes: object[]) => begun("LithophaneDocument", { hand: { strokes } }) as unknown as LithophaneDocument;
  function OverSheet({ document }: { document: LithophaneDocument }) {
    return <ModellingTool geometry={PLAN} modelling={useModelling(document, editing, "hand.strokes", false)} />;
  }

  test("strokes are kept in the sheet's own part, and the hand on the Model stays free", () => {
    useModellingStore.setState({ tool: "lower" });
    render(<svg><OverSheet document={sheetOf(RAISED)} /></svg>, { wrapper: onPage(undefined, "lithophane") });
    expect(useHandStore.getState()).toMatchObject({ hand: null, busy: false });
    dragOver(screen.getByLabelText("Lower"), [30, 20], [36, 20]);
    const [words, change] = kept();
    expect(words).toBe("Lower");
    expect((change as { hand: { strokes: HeightStroke[] } }).hand.strokes.map(({ tool }) => tool)).toEqual(["raise", "lower"]);
  });

  test("the card says where it is drawn", () => {
    show(<ModellingCard document={sheetOf()} editing={editing} at="hand.strokes" onModel={false} />, "lithophane");
    fireEvent.click(screen.getByRole("button", { name: "Raise" }));
    expect(screen.getByText(/Draw on the Plan\.$/)).toBeTruthy();
  });
});
