// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { PictureOp } from "../../../../api/ops";
import type { Plan } from "../../../../api/preview";
import { useBenchStore } from "../../../../state/benchStore";
import { onPage, useShowing } from "../../../../testing/page";
import { at, dragOver, PLAN } from "../../../../testing/plan";
import { BoxFrame } from "./BoxFrame";
import { BrushTool } from "./BrushTool";
import { CornersTool } from "./CornersTool";
import { CropTool } from "./CropTool";
import { MarksTool } from "./MarksTool";
import { PlaceTool } from "./PlaceTool";
import { PointsTool } from "./PointsTool";
import type { ToolProps } from "./PictureTools";
import { SpotTool } from "./SpotTool";

const onDrag = vi.fn<ToolProps["onDrag"]>();
const onKeep = vi.fn<ToolProps["onKeep"]>();
const BOX = { left: 0.25, bottom: 0.25, right: 0.75, top: 0.75 };
/** The source lies in the left half of the Plan: its shares across count half. */
const HALF = [[0.5, 0, 0], [0, 1, 0], [0, 0, 1]];

beforeEach(() => useBenchStore.setState({ unit: "mm", brush: { sizeMm: 2, hardness: 0.5, inside: true, straight: false } }));
afterEach(() => {
  cleanup();
  onDrag.mockReset();
  onKeep.mockReset();
  useShowing.setState({}, true);
});

/** Draw a tool over the Plan for a step with the given parameters, of which `kept` may differ while it is dragged. */
function over(Tool: (props: ToolProps) => React.ReactNode, parameters: Record<string, unknown>, kept = parameters) {
  const op = (values: Record<string, unknown>) => ({ id: "o1", on: true, ...values }) as unknown as PictureOp;
  return render(
    <svg>
      <Tool op={op(parameters)} kept={op(kept)} geometry={PLAN} onDrag={onDrag} onKeep={onKeep} />
    </svg>,
    { wrapper: onPage() },
  );
}
function sourceInLeftHalf(): void {
  useShowing.setState({ plan: { head: { from_source: HALF, size_mm: [60, 40] } } as unknown as Plan });
}
const last = () => onKeep.mock.calls.at(-1);
const grip = (name: string) => screen.getByTestId(`grip-${name}`);

describe("the crop box", () => {
  test("follows a dragged side, and is kept once it is let go of", () => {
    over(CropTool, { box: BOX, aspect: "free" });
    dragOver(grip("left"), [15, 20], [10, 20], [6, 20]);
    expect(onDrag.mock.calls.map(([{ box }]) => (box as typeof BOX).left)).toEqual([expect.closeTo(10 / 60, 6), expect.closeTo(0.1, 6)]);
    expect(last()).toEqual(["box moved", { box: { ...BOX, left: expect.closeTo(0.1, 6) as number } }]);
  });

  test("is dragged from where it was taken, although what is shown follows", () => {
    const { rerender } = render(<svg><BoxFrame box={BOX} geometry={PLAN} veiled={false} onChange={(box) => onDrag({ box })} /></svg>, { wrapper: onPage() });
    fireEvent.pointerDown(grip("right"), at(45, 20));
    fireEvent.pointerMove(grip("right"), at(48, 20));
    rerender(<svg><BoxFrame box={{ ...BOX, right: 0.8 }} geometry={PLAN} veiled={false} onChange={(box) => onDrag({ box })} /></svg>);
    fireEvent.pointerMove(grip("right"), at(51, 20));
    expect(onDrag.mock.lastCall?.[0]).toEqual({ box: { ...BOX, right: expect.closeTo(0.85, 6) as number } });
  });

  test("keeps the proportion that is chosen while a corner is dragged, and any when it is moved whole", () => {
    over(CropTool, { box: BOX, aspect: "1:1" });
    dragOver(grip("right-top"), [45, 30], [39, 30]);
    const { box } = last()?.[1] as { box: typeof BOX };
    expect((box.right - box.left) * 60).toBeCloseTo((box.top - box.bottom) * 40, 6);
    dragOver(grip("left-right-bottom-top"), [30, 20], [33, 22]);
    expect(last()?.[1]).toEqual({ box: { left: expect.closeTo(0.3, 6) as number, bottom: expect.closeTo(0.3, 6) as number, right: expect.closeTo(0.8, 6) as number, top: expect.closeTo(0.8, 6) as number } });
  });

  test("never leaves the picture, and never closes", () => {
    over(CropTool, { box: BOX, aspect: "free" });
    dragOver(grip("left-right-bottom-top"), [30, 20], [130, 120]);
    expect((last()?.[1] as { box: typeof BOX }).box).toEqual({ left: 0.5, bottom: 0.5, right: 1, top: 1 });
    dragOver(grip("top"), [30, 30], [30, -50]);
    const { box } = last()?.[1] as { box: typeof BOX };
    expect(box.top).toBeGreaterThan(box.bottom);
  });

  test("is moved by the arrow keys, a millimetre or a tenth", () => {
    over(CropTool, { box: BOX, aspect: "free" });
    fireEvent.keyDown(grip("bottom"), { key: "ArrowUp" });
    expect(last()?.[1]).toEqual({ box: { ...BOX, bottom: expect.closeTo(0.275, 6) as number } });
    fireEvent.keyDown(grip("bottom"), { key: "ArrowDown", shiftKey: true });
    expect(last()?.[1]).toEqual({ box: { ...BOX, bottom: expect.closeTo(0.2475, 6) as number } });
    fireEvent.keyDown(grip("bottom"), { key: "a" });
    expect(onKeep).toHaveBeenCalledTimes(2);
  });

  test.each([
    ["mm", "30.0 mm × 20.0 mm"],
    ["in", /^1\.18\d* in × 0\.78\d* in$|^1\.2 in × 0\.8 in$/],
  ] as const)("says its size in %s", (unit, size) => {
    useBenchStore.setState({ unit });
    over(CropTool, { box: BOX, aspect: "free" });
    expect(screen.getByTestId("box-size").textContent).toMatch(size);
  });
});

describe("the corners of a sheet", () => {
  const CORNERS = [[0.1, 0.1], [0.9, 0.1], [0.9, 0.9], [0.1, 0.9]];

  test("move one at a time", () => {
    over(CornersTool, { corners: CORNERS });
    dragOver(screen.getByTestId("corner-2"), [54, 36], [57, 38]);
    const [label, { corners }] = last() as [string, { corners: number[][] }];
    expect(label).toBe("corner moved");
    expect(corners[2]).toEqual([expect.closeTo(0.95, 6), expect.closeTo(0.95, 6)]);
    expect([corners[0], corners[1], corners[3]]).toEqual([CORNERS[0], CORNERS[1], CORNERS[3]]);
  });
});

describe("a brush", () => {
  test("draws strokes onto those that are kept, in shares of the source", () => {
    sourceInLeftHalf();
    const earlier = { places: [[0, 0, 1]], size_mm: 1, hardness: 1, inside: true };
    over(BrushTool, { strokes: [earlier, { ...earlier, size_mm: 9 }] }, { strokes: [earlier] });
    dragOver(screen.getByTestId("stroke-surface"), [15, 20], [18, 20]);
    const [label, { strokes }] = last() as [string, { strokes: unknown[] }];
    expect(label).toBe("stroke 2");
    expect(strokes).toEqual([
      earlier,
      { places: [[expect.closeTo(0.5, 6), expect.closeTo(0.5, 6), 1], [expect.closeTo(0.6, 6), expect.closeTo(0.5, 6), 1]], size_mm: 2, hardness: 0.5, inside: true },
    ]);
  });

  test("does not heap places up where the hand rests", () => {
    over(BrushTool, { strokes: [] });
    dragOver(screen.getByTestId("stroke-surface"), [15, 20], [15.1, 20], [15.2, 20], [17, 20]);
    expect((last()?.[1] as { strokes: { places: unknown[] }[] }).strokes[0]?.places).toHaveLength(2);
  });

  test("takes the pressure of a pen, and no other button than the first", () => {
    over(BrushTool, { strokes: [] });
    const surface = screen.getByTestId("stroke-surface");
    fireEvent.pointerDown(surface, { ...at(15, 20), button: 2 });
    fireEvent.pointerUp(surface, { ...at(15, 20), button: 2 });
    expect(onKeep).not.toHaveBeenCalled();
    fireEvent.pointerDown(surface, { ...at(15, 20), pointerType: "pen", pressure: 0.4 });
    fireEvent.pointerUp(surface, at(15, 20));
    expect((last()?.[1] as { strokes: { places: number[][] }[] }).strokes[0]?.places[0]?.[2]).toBeCloseTo(0.4, 6);
  });

  test("shows how large it is under the pointer, and nothing once it is away", () => {
    const { container } = over(BrushTool, { strokes: [] });
    const surface = screen.getByTestId("stroke-surface");
    fireEvent.pointerMove(surface, at(30, 10));
    expect([...container.querySelectorAll("circle")].map((circle) => [circle.getAttribute("cx"), circle.getAttribute("cy"), circle.getAttribute("r")])).toContainEqual(["120", "120", "4"]);
    fireEvent.pointerOut(surface, { relatedTarget: document.body });
    expect(container.querySelector("circle")).toBeNull();
  });
});

describe("marks for a cut", () => {
  test("say whether they stay or go", () => {
    over(MarksTool, { strokes: [], box: null });
    dragOver(screen.getByLabelText("Mark what stays"), [15, 20], [18, 20]);
    expect(last()?.[0]).toBe("mark what stays");
    cleanup();
    useBenchStore.setState({ brush: { sizeMm: 2, hardness: 0.5, inside: false, straight: false } });
    over(MarksTool, { strokes: [], box: null });
    dragOver(screen.getByLabelText("Mark what goes"), [15, 20], [18, 20]);
    expect((last()?.[1] as { strokes: { inside: boolean }[] }).strokes[0]?.inside).toBe(false);
  });

  test("have a box that lies on the source, wherever the Plan shows it", () => {
    sourceInLeftHalf();
    over(MarksTool, { strokes: [], box: { left: 0.2, bottom: 0.2, right: 0.8, top: 0.8 } });
    expect(screen.getByTestId("box-size").textContent).toBe("18.0 mm × 24.0 mm");
    dragOver(grip("left"), [6, 20], [3, 20]);
    expect(last()).toEqual(["box moved", { box: { left: expect.closeTo(0.1, 6) as number, bottom: expect.closeTo(0.2, 6) as number, right: expect.closeTo(0.8, 6) as number, top: expect.closeTo(0.8, 6) as number } }]);
  });
});

test("spots are added where one presses, in shares of the source", () => {
  sourceInLeftHalf();
  over(SpotTool, { spots: [[0.1, 0.1]] });
  fireEvent.click(screen.getByTestId("spot-surface"), at(15, 10));
  expect(last()).toEqual(["spot added", { spots: [[0.1, 0.1], [expect.closeTo(0.5, 6), expect.closeTo(0.25, 6)]] }]);
});

describe("what is laid over the picture", () => {
  const SHAPE = { centre: [0.5, 0.5], width_mm: 20, height_mm: 10, angle_deg: 0 };

  test("is moved by its middle", () => {
    sourceInLeftHalf();
    over(PlaceTool, SHAPE);
    dragOver(screen.getByTestId("place-middle"), [15, 20], [18, 24]);
    expect(last()).toEqual(["moved", { centre: [expect.closeTo(0.6, 6), expect.closeTo(0.6, 6)] }]);
    expect(onDrag).toHaveBeenCalledTimes(1);
  });

  test("is widened and turned by its end, as tall in proportion", () => {
    over(PlaceTool, { ...SHAPE, centre: [30, 20] });
    dragOver(screen.getByTestId("place-edge"), [40, 20], [30, 35]);
    expect(last()).toEqual(["size", { width_mm: 30, angle_deg: 90, height_mm: 15 }]);
  });

  test("never becomes nothing", () => {
    over(PlaceTool, { centre: [30, 20], width_mm: 20, angle_deg: 0 });
    dragOver(screen.getByTestId("place-edge"), [40, 20], [30, 20]);
    expect(last()?.[1]).toEqual({ width_mm: 0.5, angle_deg: 0 });
  });
});

describe("points of a drawn shape", () => {
  const POINTS = [[6, 4], [54, 4], [30, 36]];

  test("are set at the end by clicks beside the outline, and into the side that is clicked", () => {
    over(PointsTool, { points: POINTS, drawn: "area" });
    fireEvent.click(screen.getByTestId("points-surface"), at(57, 38));
    expect((last()?.[1] as { points: unknown[] }).points).toHaveLength(4);
    expect((last()?.[1] as { points: unknown[] }).points[3]).toEqual([57, 38]);
    fireEvent.click(screen.getByTestId("points-surface"), at(30, 4));
    expect((last()?.[1] as { points: unknown[] }).points[1]).toEqual([30, 4]);
  });

  test("are dragged, and taken away by Delete", () => {
    over(PointsTool, { points: POINTS, drawn: "line", closed: false });
    dragOver(screen.getByTestId("point-2"), [54, 4], [57, 8]);
    const [label, { points }] = last() as [string, { points: number[][] }];
    expect(label).toBe("point moved");
    expect(points).toEqual([POINTS[0], [57, 8], POINTS[2]]);
    fireEvent.keyDown(screen.getByTestId("point-3"), { key: "Delete" });
    expect(last()).toEqual(["point taken away", { points: [POINTS[0], POINTS[1]] }]);
  });
});

describe("lettering", () => {
  const LETTERS = { kind: "lettering", text: "Fern 12", centre: [0.5, 0.5], width_mm: 20, angle_deg: 0 };

  test("is changed where it stands, by a double-click and Enter", () => {
    over(PlaceTool, LETTERS);
    fireEvent.doubleClick(screen.getByTestId("place-middle"));
    const words = screen.getByLabelText("Words of the lettering");
    fireEvent.change(words, { target: { value: "Moss 7" } });
    fireEvent.keyDown(words, { key: "Enter" });
    expect(last()).toEqual(["words", { text: "Moss 7" }]);
    expect(screen.queryByLabelText("Words of the lettering")).toBeNull();
  });

  test("stays as it was on Escape, and is never left without words", () => {
    over(PlaceTool, LETTERS);
    fireEvent.keyDown(screen.getByTestId("place-middle"), { key: "Enter" });
    fireEvent.keyDown(screen.getByLabelText("Words of the lettering"), { key: "Escape" });
    fireEvent.keyDown(screen.getByTestId("place-middle"), { key: "Enter" });
    fireEvent.change(screen.getByLabelText("Words of the lettering"), { target: { value: "  " } });
    fireEvent.keyDown(screen.getByLabelText("Words of the lettering"), { key: "Enter" });
    expect(onKeep).not.toHaveBeenCalled();
  });

  test("of a shape, the upper end makes it taller", () => {
    over(PlaceTool, { kind: "shape", centre: [0.5, 0.5], width_mm: 20, height_mm: 10, angle_deg: 0 });
    dragOver(screen.getByTestId("place-top"), [30, 25], [30, 30]);
    expect(last()).toEqual(["height", { height_mm: 20 }]);
  });
});

test("a straight stroke goes from where the brush was set down to where it was lifted", () => {
  useBenchStore.setState({ brush: { sizeMm: 4, hardness: 0.8, inside: true, straight: true } });
  over(BrushTool, { strokes: [] });
  const surface = screen.getByTestId("stroke-surface");
  fireEvent.pointerDown(surface, at(6, 4));
  for (const [x, y] of [[20, 30], [40, 10], [54, 36]] as const) fireEvent.pointerMove(surface, at(x, y));
  fireEvent.pointerUp(surface);
  const [{ places }] = (last()?.[1] as { strokes: { places: number[][] }[] }).strokes as [{ places: number[][] }];
  expect(places).toEqual([[6, 4, 1], [54, 36, 1]]);
});
