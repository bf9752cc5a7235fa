// @vitest-environment happy-dom
import { freshServer, on } from "../testing/server";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { onPage } from "../testing/page";
import { CurveGraph } from "./CurveGraph";
import type { CurvePoints } from "./curvePoints";

const POINTS: CurvePoints = [[0, 0], [0.5, 0.6], [1, 1]];
const onDrag = vi.fn<(points: CurvePoints) => void>();
const onKeep = vi.fn<(what: string, points: CurvePoints) => void>();

beforeEach(() => {
  freshServer();
  on("POST /api/ops/curve", [0, 0.5, 1]);
  vi.spyOn(SVGElement.prototype as unknown as Element, "getBoundingClientRect").mockReturnValue({ left: 0, top: 0, width: 216, height: 216 } as DOMRect);
});
afterEach(() => {
  cleanup();
  onDrag.mockReset();
  onKeep.mockReset();
  vi.restoreAllMocks();
});

function draw(points = POINTS) {
  const tell = (tone: number, becomes: number) => `${tone} becomes ${becomes}`;
  return render(<CurveGraph label="Curve" points={points} counts={undefined} tell={tell} onDrag={onDrag} onKeep={onKeep} />, { wrapper: onPage() });
}
/** Where a tone and what it becomes stand on the screen. */
const at = (tone: number, becomes: number) => ({ clientX: 8 + 200 * tone, clientY: 8 + 200 * (1 - becomes), pointerId: 1 });
const point = (number: number) => screen.getByRole("slider", { name: `Point ${number} of the curve` });

describe("a point of a curve", () => {
  test("says what it does to a tone", () => {
    draw();
    expect(point(2).getAttribute("aria-valuetext")).toBe("0.5 becomes 0.6");
    expect(screen.getAllByRole("slider")).toHaveLength(3);
  });

  test("follows the pointer, and is kept once it is let go of", () => {
    draw();
    const graph = screen.getByRole("group", { name: "Curve" });
    fireEvent.pointerDown(point(2), at(0.5, 0.6));
    fireEvent.pointerMove(graph, at(0.4, 0.8));
    expect(onDrag).toHaveBeenLastCalledWith([[0, 0], [0.4, 0.8], [1, 1]]);
    fireEvent.pointerUp(graph, at(0.45, 0.9));
    expect(onKeep).toHaveBeenCalledExactlyOnceWith("curve bent", [[0, 0], [0.45, 0.9], [1, 1]]);
    fireEvent.pointerMove(graph, at(0.1, 0.1));
    expect(onDrag).toHaveBeenCalledTimes(1);
  });

  test("is added where one presses beside the curve", () => {
    draw();
    const graph = screen.getByRole("group", { name: "Curve" });
    fireEvent.pointerDown(graph, at(0.25, 0.5));
    fireEvent.pointerUp(graph, at(0.25, 0.5));
    expect(onKeep).toHaveBeenCalledExactlyOnceWith("curve bent", [[0, 0], [0.25, 0.5], [0.5, 0.6], [1, 1]]);
  });

  test("is dropped when it is dragged out; the ends stay, and stay at their tones", () => {
    draw();
    const graph = screen.getByRole("group", { name: "Curve" });
    fireEvent.pointerDown(point(2), at(0.5, 0.6));
    fireEvent.pointerUp(graph, at(0.5, 1.4));
    expect(onKeep).toHaveBeenLastCalledWith("curve bent", [[0, 0], [1, 1]]);
    fireEvent.pointerDown(point(3), at(1, 1));
    fireEvent.pointerUp(graph, at(0.5, -0.9));
    expect(onKeep).toHaveBeenLastCalledWith("curve bent", [[0, 0], [0.5, 0.6], [1, 0]]);
  });

  test.each([
    ["ArrowUp", [0.5, 0.61]],
    ["ArrowDown", [0.5, 0.59]],
    ["ArrowLeft", [0.49, 0.6]],
    ["ArrowRight", [0.51, 0.6]],
  ] as const)("is moved by %s", (key, moved) => {
    draw();
    fireEvent.keyDown(point(2), { key });
    expect(onKeep).toHaveBeenCalledExactlyOnceWith("point moved", [[0, 0], moved, [1, 1]]);
  });

  test("is removed by Delete, unless it is an end; other keys are left alone", () => {
    draw();
    fireEvent.keyDown(point(1), { key: "Delete" });
    expect(fireEvent.keyDown(point(2), { key: "Tab" })).toBe(true);
    expect(onKeep).not.toHaveBeenCalled();
    fireEvent.keyDown(point(2), { key: "Delete" });
    expect(onKeep).toHaveBeenCalledExactlyOnceWith("point removed", [[0, 0], [1, 1]]);
  });
});

test("the line is the one that the server computes through the points", async () => {
  const { container } = draw();
  await vi.waitFor(() => expect([...container.querySelectorAll("path")].map((path) => path.getAttribute("d"))).toContain("M0 200L100 100L200 0"));
});
