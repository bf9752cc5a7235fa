// @vitest-environment happy-dom
import { freshServer, on } from "../../../testing/server";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { ModelStep } from "../../../api/client";
import { kindsAt } from "../../../api/parts";
import { onPage } from "../../../testing/page";
import { PARTS } from "../../../testing/parts";
import { newRow } from "../fields/newRow";
import { StepRow } from "./StepRow";

const [onChange, onMove, onRemove] = [vi.fn(), vi.fn(), vi.fn()];

beforeEach(() => {
  freshServer();
  on("POST /api/pieces/p1/parts/s1", []);
});
afterEach(() => {
  cleanup();
  for (const each of [onChange, onMove, onRemove]) each.mockReset();
});

function row(kind: string, more: object = {}, props: Partial<Parameters<typeof StepRow>[0]> = {}) {
  const part = kindsAt(PARTS, "ModelDocument", {}, "steps")[kind];
  const step = newRow(part, { id: "s1", ...more }) as unknown as ModelStep;
  render(<StepRow pieceId="p1" revision={1} part={part} step={step} outcome={undefined} first={false} last={false} onChange={onChange} onMove={onMove} onRemove={onRemove} {...props} />, { wrapper: onPage() });
}

function type(label: string, text: string) {
  fireEvent.change(screen.getByLabelText(label), { target: { value: text } });
  fireEvent.keyDown(screen.getByLabelText(label), { key: "Enter" });
}

describe("every step", () => {
  test("is switched, moved and removed by its head", () => {
    row("repair");
    fireEvent.click(screen.getByLabelText("Repair on"));
    expect(onChange).toHaveBeenLastCalledWith("off", { on: false });
    fireEvent.click(screen.getByRole("button", { name: "Repair: earlier" }));
    fireEvent.click(screen.getByRole("button", { name: "Repair: later" }));
    expect(onMove.mock.calls).toEqual([[-1], [1]]);
    fireEvent.click(screen.getByRole("button", { name: "Remove: Repair" }));
    expect(onRemove).toHaveBeenCalledOnce();
  });

  test("goes no further than the ends of the list", () => {
    row("repair", {}, { first: true, last: true });
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Repair: earlier" }).disabled).toBe(true);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Repair: later" }).disabled).toBe(true);
  });

  test("tells what it changed, unless it is switched off", () => {
    row("repair", {}, { outcome: "15 holes filled" });
    expect(screen.getByTestId("outcome-repair").textContent).toContain("15 holes filled.");
    cleanup();
    row("repair", { on: false }, { outcome: "15 holes filled" });
    expect(screen.queryByTestId("outcome-repair")).toBeNull();
  });
});

test("a cut is across an axis, at a height, and one side stays", () => {
  row("cut", { at_mm: 10 });
  fireEvent.click(screen.getByRole("radio", { name: "X" }));
  expect(onChange).toHaveBeenLastCalledWith("axis of the cut x", { axis: "x" });
  type("From the lower end", "12.5 mm");
  expect(onChange).toHaveBeenLastCalledWith("from the lower end 12.5 mm", { at_mm: 12.5 });
  fireEvent.click(screen.getByRole("radio", { name: "Below" }));
  expect(onChange).toHaveBeenLastCalledWith("side that stays below", { keep: "below" });
});

test("a surface made anew has a voxel and keeps sharp edges, or not", () => {
  row("remesh");
  type("Voxel", "0.25");
  expect(onChange).toHaveBeenLastCalledWith("voxel 0.25 mm", { voxel_mm: 0.25 });
  type("Voxel", "0");
  expect(screen.getByRole("alert").textContent).toContain("would be accepted");
  fireEvent.click(screen.getByLabelText("Keep sharp edges"));
  expect(onChange).toHaveBeenLastCalledWith("keep sharp edges off", { keep_edges: false });
  expect(onChange).toHaveBeenCalledTimes(2);
});

test("the largest parts are kept by their number, which forgets those chosen one by one", () => {
  row("keep-parts", { largest: 1, chosen: [2, 5] });
  expect(screen.getByLabelText<HTMLInputElement>("Parts kept, the largest first").value).toBe("2");
  type("Parts kept, the largest first", "3");
  expect(onChange).toHaveBeenLastCalledWith("3 kept", { largest: 3, chosen: [] });
});
