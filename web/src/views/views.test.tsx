// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { MapHead, Plan } from "../api/preview";
import { useBenchStore, type Line } from "../state/benchStore";
import { onPage, useShowing } from "../testing/page";
import { at, dragOver, PLAN } from "../testing/plan";
import { LightDial } from "./model/LightDial";
import { MapLegend } from "./model/MapLegend";
import { Divider } from "./plan/Divider";
import { LineTool } from "./plan/LineTool";
import { Rulers } from "./plan/Rulers";
import { Readout } from "./section/Readout";
import { useSectionHeight } from "./section/useSectionHeight";

const state = () => useBenchStore.getState();

beforeEach(() => {
  useBenchStore.setState({ unit: "mm", divider: 0.5, cursor: null, station: "height", light: { fromDeg: 90, aboveDeg: 45 }, sectionPx: null, sectionFolded: false });
});
afterEach(() => {
  cleanup();
  useShowing.setState({}, true);
  vi.restoreAllMocks();
});

describe("the section line", () => {
  const LINE: Line = { start: { x: 10, y: 20 }, end: { x: 50, y: 20 } };
  const onMove = vi.fn<(line: Line) => void>();
  const draw = (line = LINE) => {
    onMove.mockReset();
    render(<svg><LineTool line={line} toPx={PLAN.toPx} toMm={PLAN.toMm} onMove={onMove} /></svg>);
  };

  test("is turned by either end", () => {
    draw();
    dragOver(screen.getByTestId("line-start"), [10, 20], [12, 25]);
    expect(onMove).toHaveBeenLastCalledWith({ start: { x: 12, y: 25 }, end: LINE.end });
    dragOver(screen.getByTestId("line-end"), [50, 20], [45, 10]);
    expect(onMove).toHaveBeenLastCalledWith({ start: LINE.start, end: { x: 45, y: 10 } });
  });

  test("is moved as a whole by its middle, and no longer once it is let go of", () => {
    draw();
    const middle = screen.getByTestId("line-whole");
    dragOver(middle, [30, 20], [32, 23]);
    expect(onMove).toHaveBeenLastCalledWith({ start: { x: 12, y: 23 }, end: { x: 52, y: 23 } });
    fireEvent.pointerMove(middle, at(1, 1));
    expect(onMove).toHaveBeenCalledTimes(1);
  });

  test("is stepped by the arrow keys, a millimetre or a tenth", () => {
    draw();
    fireEvent.keyDown(screen.getByTestId("line-end"), { key: "ArrowUp" });
    expect(onMove).toHaveBeenLastCalledWith({ start: LINE.start, end: { x: 50, y: 21 } });
    fireEvent.keyDown(screen.getByTestId("line-whole"), { key: "ArrowLeft", shiftKey: true });
    expect(onMove).toHaveBeenLastCalledWith({ start: { x: 9.9, y: 20 }, end: { x: 49.9, y: 20 } });
    fireEvent.keyDown(screen.getByTestId("line-end"), { key: "Enter" });
    expect(onMove).toHaveBeenCalledTimes(2);
  });

  test("never becomes a point", () => {
    draw({ start: { x: 10, y: 20 }, end: { x: 11.2, y: 20 } });
    fireEvent.keyDown(screen.getByTestId("line-end"), { key: "ArrowLeft" });
    expect(onMove).not.toHaveBeenCalled();
  });
});

describe("the divider between before and after", () => {
  const draw = () => render(<svg><Divider geometry={PLAN} share={0.5} before="Source" after="Now" /></svg>);

  test("names both sides and is dragged, but not out of the Plan", () => {
    draw();
    expect(screen.getByText("Source").getAttribute("text-anchor")).toBe("end");
    dragOver(screen.getByTestId("divider"), [30, 20], [15, 20]);
    expect(state().divider).toBeCloseTo(0.25, 6);
    dragOver(screen.getByTestId("divider"), [15, 20], [90, 20]);
    expect(state().divider).toBeLessThanOrEqual(1);
    fireEvent.pointerMove(screen.getByTestId("divider"), at(20, 20));
    expect(state().divider).toBeGreaterThan(0.9);
  });

  test.each([["ArrowLeft", 0.48], ["ArrowRight", 0.52], ["ArrowUp", 0.5]])("is moved by %s to %f", (key, share) => {
    draw();
    fireEvent.keyDown(screen.getByTestId("divider"), { key });
    expect(state().divider).toBeCloseTo(share, 6);
  });
});

describe("rulers", () => {
  const draw = (scale: number, cursor: { x: number; y: number } | null = null) =>
    render(<svg><Rulers width={640} height={400} left={40} bottom={380} scale={scale} cursor={cursor} /></svg>).container;
  const labels = (within: Element) => [...within.querySelectorAll("text")].map((text) => text.textContent);

  test("count from the piece's corner, in the unit of the bench", () => {
    expect(labels(draw(4))).toEqual(expect.arrayContaining(["0", "mm"]));
    cleanup();
    useBenchStore.setState({ unit: "in" });
    expect(labels(draw(4)).at(-1)).toBe("in");
  });

  test("have finer numbers the closer one looks", () => {
    const far = labels(draw(2)).filter((label) => label !== "mm").map(Number);
    cleanup();
    const near = labels(draw(40)).filter((label) => label !== "mm").map(Number);
    const step = (numbers: number[]) => Math.min(...numbers.flatMap((one, i) => numbers.slice(i + 1).map((other) => Math.abs(one - other))).filter((gap) => gap > 0));
    expect(step(near)).toBeLessThan(step(far));
  });

  test("mark where the cursor is", () => {
    expect([...draw(4, { x: 10, y: 5 }).querySelectorAll("path")].map((path) => path.getAttribute("d"))).toContain("M80 0 v24 M0 360 h24");
  });
});

describe("the lamp's dial", () => {
  test.each([
    ["ArrowLeft", {}, { fromDeg: 95, aboveDeg: 45 }],
    ["ArrowRight", { shiftKey: true }, { fromDeg: 75, aboveDeg: 45 }],
    ["ArrowUp", {}, { fromDeg: 90, aboveDeg: 50 }],
    ["ArrowDown", { shiftKey: true }, { fromDeg: 90, aboveDeg: 30 }],
    ["Home", {}, { fromDeg: 90, aboveDeg: 45 }],
  ])("turns by %s %o", (key, more, light) => {
    render(<LightDial />);
    fireEvent.keyDown(screen.getByTestId("light-dial"), { key, ...more });
    expect(state().light).toEqual(light);
  });

  test("goes round and round, but neither below the surface nor over the top", () => {
    useBenchStore.setState({ light: { fromDeg: 358, aboveDeg: 88 } });
    render(<LightDial />);
    const dial = screen.getByTestId("light-dial");
    fireEvent.keyDown(dial, { key: "ArrowLeft" });
    fireEvent.keyDown(dial, { key: "ArrowUp" });
    expect(state().light).toEqual({ fromDeg: 3, aboveDeg: 90 });
    for (let presses = 0; presses < 12; presses += 1) fireEvent.keyDown(dial, { key: "ArrowDown", shiftKey: true });
    expect(state().light.aboveDeg).toBeGreaterThan(0);
  });

  test("follows the pointer: where it is round the middle, and lower towards the rim", () => {
    render(<LightDial />);
    const dial = screen.getByTestId("light-dial");
    vi.spyOn(dial, "getBoundingClientRect").mockReturnValue({ left: 0, top: 0, width: 100, height: 100 } as DOMRect);
    fireEvent.pointerDown(dial, { clientX: 70, clientY: 50, pointerId: 1 });
    expect(state().light).toEqual({ fromDeg: 0, aboveDeg: 45 });
    fireEvent.pointerDown(dial, { clientX: 50, clientY: 60, pointerId: 1 });
    expect(state().light).toEqual({ fromDeg: 270, aboveDeg: 68 });
  });
});

describe("the legend of colours on the model", () => {
  const head = (kind: MapHead["kind"], more: Partial<MapHead> = {}) => ({ kind, unit: "mm", least: 0.4321, most: 3.21, limit: null, triangles: 1, standing: false, ...more }) as MapHead;
  const told = (given: MapHead) => {
    cleanup();
    render(<MapLegend head={given} />);
    return screen.getByTestId("map-legend").textContent;
  };

  test("tells the thinnest place of walls, and the largest of what is off", () => {
    expect(told(head("thickness"))).toMatch(/largest sphere inside.*thinnest 0\.43\d* mm$/);
    expect(told(head("thickness-ray"))).toMatch(/straight through.*thinnest 0\.43\d* mm$/);
    expect(told(head("deviation", { most: 0.01234 }))).toMatch(/largest 0\.01\d* mm$/);
  });

  test("tells leans and overhangs in degrees", () => {
    expect(told(head("draft", { unit: "°", least: -3.2 }))).toMatch(/−?-?20°90°steepest -3°$/);
    expect(told(head("overhang-standing", { unit: "°", most: 61.7 }))).toMatch(/printed standing.*largest 62°$/);
  });

  test("follows the unit of the bench", () => {
    useBenchStore.setState({ unit: "in" });
    expect(told(head("thickness"))).toMatch(/thinnest 0\.01\d* in$/);
  });
});

describe("what is under the cursor", () => {
  const plan = { head: { size_mm: [60, 40], backing_mm: 2 }, grid: { rows: 2, columns: 2, tones: new Uint16Array([0, 65535, 32768, 16384]), heights: new Float32Array([0, 4, Number.NaN, 1]) } } as unknown as Plan;
  const told = (cursor: { x: number; y: number } | null, levels: number | null = 256) => {
    cleanup();
    useShowing.setState({ plan });
    useBenchStore.setState({ cursor });
    render(<Readout levels={levels} />, { wrapper: onPage() });
    return screen.queryByTestId("readout")?.textContent;
  };

  test("is told in numbers: place, tone, height and thickness", () => {
    expect(told({ x: 59, y: 39 })).toMatch(/^x 59\.00 mmy 39\.00 mmtone 100\.0 %height 4\.00 mmthickness 6\.00 mm$/);
  });

  test("is blank where there is no material, and then has no thickness", () => {
    expect(told({ x: 1, y: 1 })).toMatch(/height blankthickness none$/);
  });

  test("has a level of the source at the Picture, of as many as it can hold", () => {
    useBenchStore.setState({ station: "picture" });
    expect(told({ x: 59, y: 1 })).toContain("level 64 of 255");
    expect(told({ x: 59, y: 1 }, 65536)).toContain("level 16,384 of 65,535");
  });

  test("has no tone where there is no picture", () => {
    expect(told({ x: 59, y: 39 }, null)).toMatch(/^x 59\.00 mmy 39\.00 mmheight 4\.00 mm$/);
  });

  test("is nothing beside the piece", () => {
    expect(told({ x: 61, y: 1 })).toBeUndefined();
    expect(told(null)).toBeUndefined();
    expect(screen.getByText("Point at the piece to read it")).toBeTruthy();
  });
});

describe("the section's height", () => {
  function Edge() {
    const { folded, setFolded, ...edge } = useSectionHeight();
    return (
      <>
        <hr {...edge} />
        <button onClick={() => setFolded(!folded)}>fold</button>
      </>
    );
  }
  const shown = () => document.documentElement.style.getPropertyValue("--section-height");
  beforeEach(() => vi.spyOn(window, "innerHeight", "get").mockReturnValue(800));

  test("is a quarter of the window to begin with", () => {
    render(<Edge />);
    expect(shown()).toBe("208px");
    expect(screen.getByRole("separator").getAttribute("aria-valuenow")).toBe("208");
  });

  test("is dragged, within what leaves room for the views and for itself", () => {
    render(<Edge />);
    const edge = screen.getByRole("separator");
    vi.spyOn(edge, "hasPointerCapture").mockReturnValue(true);
    fireEvent.pointerMove(edge, { clientY: 500, pointerId: 1 });
    expect(shown()).toBe("300px");
    fireEvent.pointerMove(edge, { clientY: 20, pointerId: 1 });
    expect(shown()).toBe("480px");
    fireEvent.pointerMove(edge, { clientY: 790, pointerId: 1 });
    expect(shown()).toBe("90px");
  });

  test("stays when a pointer only passes", () => {
    render(<Edge />);
    fireEvent.pointerMove(screen.getByRole("separator"), { clientY: 500, pointerId: 1 });
    expect(shown()).toBe("208px");
  });

  test("is stepped by the arrow keys", () => {
    render(<Edge />);
    fireEvent.keyDown(screen.getByRole("separator"), { key: "ArrowUp" });
    expect(shown()).toBe("232px");
    fireEvent.keyDown(screen.getByRole("separator"), { key: "ArrowDown" });
    fireEvent.keyDown(screen.getByRole("separator"), { key: "ArrowDown" });
    expect(shown()).toBe("184px");
  });

  test("is folded to its name, and comes back as tall as it was", () => {
    useBenchStore.setState({ sectionPx: 320 });
    render(<Edge />);
    fireEvent.click(screen.getByText("fold"));
    expect(shown()).toBe("30px");
    fireEvent.click(screen.getByText("fold"));
    expect(shown()).toBe("320px");
  });

  test("of a tall window fits a window that is lower now", () => {
    useBenchStore.setState({ sectionPx: 700 });
    render(<Edge />);
    expect(shown()).toBe("480px");
  });
});
