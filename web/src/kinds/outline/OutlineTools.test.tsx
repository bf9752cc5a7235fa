// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { OutlinesView } from "../../api/client";
import { useBenchStore, type Spot } from "../../state/benchStore";
import { useOutlineStore, type SharePlace } from "../../state/outlineStore";
import { onPage } from "../../testing/page";
import { at, dragOver, PLAN } from "../../testing/plan";
import { PARTS } from "../../testing/parts";
import { begun } from "../../testing/stations";
import { kindsAt } from "../../api/parts";
import { CurveList } from "./CurveList";
import { OutlineTools } from "./OutlineTools";

const curve = (number: number, layer: number, nodes: [number, number][], more = {}) => ({ number, layer, closed: true, area_mm2: 100, width_mm: null, path: "M0 0", nodes, ...more });
const VIEW = {
  width_mm: 60,
  layers: [{ name: "Paper", ground: true }, { name: "Leaf", ground: false }, { name: "Veins", ground: false }],
  gaps: [[[10, 10], [12, 10]]],
  flaws: [{ where: [30, 20] }],
  curves: [
    curve(0, 0, [[0, 0], [60, 0], [60, 40]]),
    curve(1, 1, [[6, 6], [18, 6], [18, 18]]),
    curve(2, 2, [[30, 30], [42, 30]], { closed: false }),
    curve(3, 2, [[48, 6]], { width_mm: 1.25, area_mm2: 3.456 }),
  ],
} as unknown as OutlinesView;

const onNodeMoved = vi.fn<(place: SharePlace, by: Spot) => void>();
const onAdd = vi.fn<(kind: string, parameters: Record<string, unknown>) => void>();
const state = () => useOutlineStore.getState();
const chosen = () => [...state().chosen];

beforeEach(() => {
  useOutlineStore.setState({ mode: "outlines", chosen: [], node: null, pressed: null });
  useBenchStore.setState({ cursor: null, unit: "mm" });
});
afterEach(() => {
  cleanup();
  onNodeMoved.mockReset();
  onAdd.mockReset();
});

function overPlan() {
  const drawn = render(<svg><OutlineTools view={VIEW} geometry={PLAN} onNodeMoved={onNodeMoved} /></svg>, { wrapper: onPage() });
  return drawn.container.querySelector("[data-testid=outlines] > rect") as Element;
}
function list() {
  const kinds = kindsAt(PARTS, "TracedDocument", begun("TracedDocument"), "mend");
  render(<CurveList view={VIEW} kinds={kinds} onAdd={onAdd} />, { wrapper: onPage(undefined, "traced") });
}

describe("outlines on the Plan", () => {
  test("are chosen by a press; with Shift others stay, and one is taken out again", () => {
    overPlan();
    fireEvent.pointerDown(screen.getByTestId("outline-1"), at(6, 6));
    fireEvent.pointerDown(screen.getByTestId("outline-2"), { ...at(30, 30), shiftKey: true });
    expect(chosen()).toEqual([1, 2]);
    fireEvent.pointerDown(screen.getByTestId("outline-1"), { ...at(6, 6), ctrlKey: true });
    expect(chosen()).toEqual([2]);
    fireEvent.pointerDown(screen.getByTestId("outline-3"), at(48, 6));
    expect(chosen()).toEqual([3]);
  });

  test("of the paper cannot be chosen", () => {
    overPlan();
    expect(screen.queryByTestId("outline-0")).toBeNull();
  });

  test("are framed when they lie within the frame as a whole", () => {
    const ground = overPlan();
    dragOver(ground, [2, 2], [20, 20]);
    expect(chosen()).toEqual([1]);
    dragOver(ground, [45, 35], [16, 2]);
    expect(chosen()).toEqual([2]);
  });

  test("framed with Shift join those that are chosen, each once", () => {
    const ground = overPlan();
    useOutlineStore.setState({ chosen: [1, 3] });
    fireEvent.pointerDown(ground, at(2, 2));
    fireEvent.pointerMove(ground, at(45, 35));
    fireEvent.pointerUp(ground, { ...at(45, 35), shiftKey: true });
    expect(chosen()).toEqual([1, 3, 2]);
  });

  test("are let go of by a press beside them, whose place is remembered", () => {
    const ground = overPlan();
    useOutlineStore.setState({ chosen: [1] });
    dragOver(ground, [30, 12], [30.2, 12]);
    expect(chosen()).toEqual([]);
    expect(state().pressed).toEqual([0.5, 0.2]);
  });

  test("show gaps and faults where they are", () => {
    overPlan();
    const marks = screen.getByTestId("outlines");
    expect(marks.querySelector("path[stroke-dasharray='3 3']")?.getAttribute("d")).toBe("M40 120L48 120");
    expect([...marks.querySelectorAll("circle")].map((circle) => [circle.getAttribute("cx"), circle.getAttribute("cy")])).toEqual([["120", "80"]]);
  });
});

describe("a node", () => {
  test("is seen on chosen outlines only, and only where nodes are worked on", () => {
    useOutlineStore.setState({ chosen: [1] });
    overPlan();
    expect(screen.queryByTestId("node-1-0")).toBeNull();
    cleanup();
    useOutlineStore.setState({ mode: "nodes", chosen: [1] });
    overPlan();
    expect(screen.getAllByTestId(/^node-1-/)).toHaveLength(3);
    expect(screen.queryByTestId("node-2-0")).toBeNull();
  });

  test("is dragged, and tells by how much once it is let go of", () => {
    useOutlineStore.setState({ mode: "nodes", chosen: [1] });
    overPlan();
    dragOver(screen.getByTestId("node-1-1"), [18, 6], [20, 6], [21, 8]);
    expect(onNodeMoved).toHaveBeenCalledExactlyOnceWith([0.3, 0.1], { x: 3, y: 2 });
    expect(state().node).toEqual({ curve: 1, place: [0.3, 0.1] });
  });

  test("that a hand only touches stays where it is", () => {
    useOutlineStore.setState({ mode: "nodes", chosen: [1] });
    overPlan();
    dragOver(screen.getByTestId("node-1-1"), [18, 6], [18.25, 6]);
    expect(onNodeMoved).not.toHaveBeenCalled();
  });
});

describe("the list of outlines", () => {
  test("names each by its layer and its size", () => {
    list();
    expect(screen.getAllByRole("listitem").map((item) => item.textContent)).toEqual(["Outline 2, Leaf100 mm²", "Outline 3, Veinsopen", "Stroke 1.25 mm 4, Veins3.46 mm²"]);
  });

  test("chooses them, and what is done goes to a place on each", () => {
    list();
    const keepThem = screen.getByRole<HTMLButtonElement>("button", { name: kindsAt(PARTS, "TracedDocument", begun("TracedDocument"), "mend").keep?.heading });
    expect(keepThem.disabled).toBe(true);
    fireEvent.click(screen.getByRole("button", { name: /^Outline 2/ }));
    fireEvent.click(screen.getByRole("button", { name: /^Outline 3/ }), { shiftKey: true });
    fireEvent.click(keepThem);
    expect(onAdd).toHaveBeenCalledExactlyOnceWith("keep", { chosen: [[0.3, 0.1], [0.7, 0.5]] });
    expect(chosen()).toEqual([]);
  });

  test("combines two at least", () => {
    list();
    const combine = screen.getByRole<HTMLButtonElement>("button", { name: kindsAt(PARTS, "TracedDocument", begun("TracedDocument"), "mend").combine?.heading });
    fireEvent.click(screen.getByRole("button", { name: /^Outline 2/ }));
    expect(combine.disabled).toBe(true);
    fireEvent.click(screen.getByRole("button", { name: /^Stroke/ }), { ctrlKey: true });
    expect(combine.disabled).toBe(false);
  });

  test.each([
    ["Insert here", { action: "insert", place: [0.3, 0.2] }],
    ["Remove", { action: "remove", place: [0.3, 0.1] }],
    ["Corner", { action: "corner", place: [0.3, 0.1] }],
    ["Smooth", { action: "smooth", place: [0.3, 0.1] }],
  ])("%s works on the node that is held", (name, parameters) => {
    list();
    fireEvent.click(screen.getByRole("radio", { name: "Nodes" }));
    expect(screen.getByRole<HTMLButtonElement>("button", { name }).disabled).toBe(true);
    cleanup();
    useOutlineStore.setState({ mode: "nodes", node: { curve: 1, place: [0.3, 0.1] } });
    list();
    fireEvent.click(screen.getByRole("button", { name }));
    expect(onAdd).toHaveBeenCalledExactlyOnceWith("node", parameters);
    expect(state().node).toBeNull();
  });
});
