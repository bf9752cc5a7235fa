// @vitest-environment happy-dom
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";
import { useBenchStore } from "../../state/benchStore";
import { remembered, useJudgingStore } from "../../state/judgingStore";
import { JudgingLight } from "./JudgingLight";

afterEach(cleanup);

const press = (name: string) => fireEvent.click(screen.getByRole("button", { name }));

test("a light that was moved is kept in the place of the one that was chosen", () => {
  render(<JudgingLight steps={[]} />);
  press("Light and surface");
  press("Light 2");
  expect(useBenchStore.getState().light).toEqual(useJudgingStore.getState().lights[1]);
  expect(screen.getByRole("button", { name: "Light 2" }).getAttribute("aria-pressed")).toBe("true");
  expect(screen.getByRole("button", { name: "Keep as 2" }).hasAttribute("disabled")).toBe(true);
  act(() => useBenchStore.getState().set({ light: { fromDeg: 33, aboveDeg: 44 } }));
  fireEvent.click(screen.getByRole("button", { name: "Keep as 2" }));
  expect(useJudgingStore.getState().lights[1]).toEqual({ fromDeg: 33, aboveDeg: 44 });
});

test("the piece looks as if made of what is chosen, and a picture is asked for by a press", () => {
  render(<JudgingLight steps={[]} />);
  press("Light and surface");
  press("Bronze");
  expect(useJudgingStore.getState().surface).toBe("bronze");
  const before = useJudgingStore.getState().pictures;
  press("Save as picture");
  expect(useJudgingStore.getState().pictures).toBe(before + 1);
});

test("shadows are soft where that is wanted, and stay so", () => {
  render(<JudgingLight steps={[]} />);
  press("Light and surface");
  expect(screen.getByRole("button", { name: "Sharp" }).getAttribute("aria-pressed")).toBe("true");
  press("Soft");
  expect(useJudgingStore.getState().soft).toBe(true);
  expect(remembered().soft).toBe(true);
  press("Sharp");
  expect(remembered().soft).toBe(false);
});

test("the piece without a step is asked for beside it, and put away again", () => {
  render(<JudgingLight steps={[{ key: "height.draft", name: "Draft", without: { height: { draft: { on: false } } } }]} />);
  press("Light and surface");
  fireEvent.change(screen.getByRole("combobox", { name: "Beside it" }), { target: { value: "height.draft" } });
  expect(useBenchStore.getState().beside).toEqual({ without: "height.draft", name: "Without: Draft" });
  fireEvent.change(screen.getByRole("combobox", { name: "Beside it" }), { target: { value: "" } });
  expect(useBenchStore.getState().beside).toBeNull();
});
