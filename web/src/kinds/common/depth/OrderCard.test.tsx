// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { FigureDocument } from "../../../api/client";
import type { Plan } from "../../../api/preview";
import { useDepthStore } from "../../../state/depthStore";
import { onPage, useShowing } from "../../../testing/page";
import { dragOver, PLAN } from "../../../testing/plan";
import { freshServer } from "../../../testing/server";
import { begun, editing, keep, kept, part, show } from "../../../testing/stations";
import { DepthTool, OrderMarks } from "./DepthTools";
import { OrderCard } from "./OrderCard";

const WING = part("OrderedPart", { id: "w", at: [0.25, 0.5], step_mm: 2 });
const BEAK = part("OrderedPart", { id: "b", at: [0.5, 0.75] });

beforeEach(() => {
  freshServer();
  useDepthStore.setState({ kind: null, marking: false });
});
afterEach(() => {
  cleanup();
  keep.mockReset();
  useShowing.setState({}, true);
});

const documentOf = (order: object[]) => begun("FigureDocument", { figure: { order } }) as unknown as FigureDocument;
const card = (...order: object[]) => show(<OrderCard at="figure" document={documentOf(order)} editing={editing} />, "figure");
const press = (name: string) => fireEvent.click(screen.getByRole("button", { name }));

test("a part goes nearer or further in the list, and no further than its ends", () => {
  card(WING, BEAK);
  press("Part 2: nearer");
  expect(kept()).toEqual(["Part 2 nearer", { figure: { order: [BEAK, WING] } }]);
  press("Part 1: further");
  expect(kept()[1]).toEqual({ figure: { order: [BEAK, WING] } });
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Part 1: nearer" }).disabled).toBe(true);
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Part 2: further" }).disabled).toBe(true);
});

test("a part is switched, stands out by what is typed, and is removed", () => {
  card(WING, BEAK);
  const first = screen.getByRole("region", { name: "Part 1" });
  fireEvent.click(within(first).getByLabelText("Part 1 on"));
  expect(kept()[1]).toEqual({ figure: { order: [{ ...WING, on: false }, BEAK] } });
  const step = within(first).getByRole("textbox");
  fireEvent.change(step, { target: { value: "4" } });
  fireEvent.keyDown(step, { key: "Enter" });
  expect(kept()[1]).toEqual({ figure: { order: [{ ...WING, step_mm: 4 }, BEAK] } });
  press("Remove part 1");
  expect(kept()[1]).toEqual({ figure: { order: [BEAK] } });
});

test("marking is put away when a part is no longer marked, and when one leaves", () => {
  card();
  press("Mark a part on the Plan");
  expect(useDepthStore.getState().marking).toBe(true);
  press("Press on a part on the Plan");
  expect(useDepthStore.getState().marking).toBe(false);
  press("Mark a part on the Plan");
  cleanup();
  expect(useDepthStore.getState().marking).toBe(false);
});

test("a press on the Plan marks a part, last in the list, in shares of the source", () => {
  useShowing.setState({ plan: { head: { from_source: [[0.5, 0, 0], [0, 1, 0], [0, 0, 1]], size_mm: [60, 40] } } as unknown as Plan });
  useDepthStore.setState({ marking: true });
  render(<svg><DepthTool at="figure" document={documentOf([WING])} editing={editing} geometry={PLAN} /></svg>, { wrapper: onPage(undefined, "figure") });
  dragOver(screen.getByTestId("stroke-surface"), [6, 20], [6, 20]);
  const [label, change] = kept() as [string, { figure: { order: Record<string, unknown>[] } }];
  expect(label).toBe("Part marked");
  expect(change.figure.order[0]).toEqual(WING);
  expect(change.figure.order[1]).toMatchObject({ at: [expect.closeTo(0.2, 6), expect.closeTo(0.5, 6)], on: true, step_mm: 3 });
  expect(change.figure.order[1]).not.toHaveProperty("kind");
});

test("parts that count carry their number over the Plan", () => {
  render(<svg><OrderMarks at="figure" document={documentOf([WING, { ...BEAK, on: false }, BEAK])} geometry={PLAN} /></svg>, { wrapper: onPage(undefined, "figure") });
  expect([...screen.getByTestId("depth-order").querySelectorAll("text")].map((each) => each.textContent)).toEqual(["1", "3"]);
});
