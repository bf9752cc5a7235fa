// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, test, vi } from "vitest";
import { useBenchStore } from "../state/benchStore";
import { Choice } from "./Choice";
import { LengthField } from "./LengthField";
import { NumberField } from "./NumberField";
import { StepHead } from "./StepHead";

afterEach(() => {
  cleanup();
  useBenchStore.setState({ unit: "mm" });
});

const field = (label: string) => screen.getByLabelText<HTMLInputElement>(label);
function type(label: string, text: string, key = "Enter") {
  fireEvent.change(field(label), { target: { value: text } });
  fireEvent.keyDown(field(label), { key });
}

function widthField(more: Partial<Parameters<typeof LengthField>[0]> = {}) {
  const onKeep = vi.fn<(value: number) => void>();
  const onDrag = vi.fn<(value: number) => void>();
  render(<LengthField label="Width" value={80} lowest={1} highest={3000} step={0.5} slider={{ from: 10, to: 200 }} onKeep={onKeep} onDrag={onDrag} {...more} />);
  return { onKeep, onDrag };
}

describe("a length", () => {
  test.each([
    ["24", 24],
    ["24 mm", 24],
    ["2.4 cm", 24],
    ["1/8 in", 3.175],
    ["24,5", 24.5],
  ])("typed as %s is kept in mm", (text, mm) => {
    const { onKeep } = widthField();
    type("Width", text);
    expect(onKeep).toHaveBeenCalledExactlyOnceWith(mm);
  });

  test("typed without a unit is in the unit of the bench", () => {
    useBenchStore.setState({ unit: "in" });
    const { onKeep } = widthField();
    expect(field("Width").value).toBe("3.1496 in");
    type("Width", "2");
    expect(onKeep).toHaveBeenCalledExactlyOnceWith(50.8);
  });

  test("that is no length gets a sentence, and what was typed stays", () => {
    const { onKeep } = widthField();
    type("Width", "broad");
    expect(screen.getByRole("alert").textContent).toBe("“broad” is not understood; try 3.5 or 1/8 in.");
    expect(field("Width").value).toBe("broad");
    expect(onKeep).not.toHaveBeenCalled();
    type("Width", "broad", "Escape");
    expect(field("Width").value).toBe("80 mm");
    expect(screen.queryByRole("alert")).toBeNull();
  });

  test.each(["0", "-5", "3001", "400 cm"])("of %s is out of range and tells the range", (text) => {
    const { onKeep } = widthField();
    type("Width", text);
    expect(screen.getByRole("alert").textContent).toBe("1 mm to 3000 mm would be accepted.");
    expect(onKeep).not.toHaveBeenCalled();
  });

  test("is kept when the field is left, and once only", () => {
    const { onKeep } = widthField();
    fireEvent.change(field("Width"), { target: { value: "30" } });
    fireEvent.blur(field("Width"));
    fireEvent.blur(field("Width"));
    expect(onKeep).toHaveBeenCalledExactlyOnceWith(30);
  });

  test("that stays the same is no step to undo", () => {
    const { onKeep } = widthField();
    type("Width", "80.0 mm");
    expect(onKeep).not.toHaveBeenCalled();
  });

  test("is stepped by the arrow keys, ten times as far with Shift, and never out of range", () => {
    const { onKeep } = widthField({ value: 2998 });
    fireEvent.keyDown(field("Width"), { key: "ArrowUp" });
    fireEvent.keyDown(field("Width"), { key: "ArrowUp", shiftKey: true });
    fireEvent.keyDown(field("Width"), { key: "ArrowDown" });
    expect(onKeep.mock.calls).toEqual([[2998.5], [3000], [2997.5]]);
  });

  test("follows the slider, and is kept once the slider is let go of", () => {
    const { onKeep, onDrag } = widthField();
    const slider = screen.getByLabelText("Width, slider");
    for (const value of ["90", "120"]) fireEvent.change(slider, { target: { value } });
    expect(onDrag.mock.calls).toEqual([[90], [120]]);
    expect(field("Width").value).toBe("120 mm");
    expect(onKeep).not.toHaveBeenCalled();
    fireEvent.pointerUp(slider);
    expect(onKeep).toHaveBeenCalledExactlyOnceWith(120);
  });

  test("beyond the slider's span leaves the slider at its end", () => {
    widthField({ value: 900 });
    expect(screen.getByLabelText<HTMLInputElement>("Width, slider").value).toBe("200");
    expect(field("Width").value).toBe("900 mm");
  });
});

describe("a number", () => {
  test("shares are typed and shown in per cent", () => {
    const onKeep = vi.fn();
    render(<NumberField label="Strength" unit="" share value={0.5} lowest={0} highest={1} step={0.05} onKeep={onKeep} />);
    expect(field("Strength").value).toBe("50 %");
    type("Strength", "35 %");
    expect(onKeep).toHaveBeenCalledExactlyOnceWith(0.35);
  });

  test("counts are whole", () => {
    const onKeep = vi.fn();
    render(<NumberField label="Copies" unit="" whole value={8} lowest={1} highest={400} step={1} onKeep={onKeep} />);
    type("Copies", "7.4");
    expect(onKeep).toHaveBeenCalledExactlyOnceWith(7);
  });

  test("a length where degrees are asked for is no number of them", () => {
    const onKeep = vi.fn();
    render(<NumberField label="Turn" unit="°" value={0} lowest={-360} highest={360} step={1} onKeep={onKeep} />);
    type("Turn", "5 cm");
    expect(screen.getByRole("alert").textContent).toContain("is not understood");
    type("Turn", "-15°");
    expect(onKeep).toHaveBeenCalledExactlyOnceWith(-15);
  });
});

test("alternatives are gone through by the arrow keys, round and round", () => {
  const onChange = vi.fn();
  const options = ["square", "bevel", "fade"].map((value) => ({ value, label: value }));
  render(<Choice label="Edge" value="fade" options={options} onChange={onChange} />);
  const group = screen.getByRole("radiogroup", { name: "Edge" });
  fireEvent.keyDown(group, { key: "ArrowRight" });
  fireEvent.keyDown(group, { key: "ArrowUp" });
  fireEvent.keyDown(group, { key: "a" });
  expect(onChange.mock.calls).toEqual([["square"], ["bevel"]]);
  expect(screen.getByRole("radio", { name: "fade" }).getAttribute("aria-checked")).toBe("true");
});

test("a step is switched and removed by its head", () => {
  const [onSwitch, onRemove] = [vi.fn(), vi.fn()];
  render(<StepHead title="Acorn" on onSwitch={onSwitch} onRemove={onRemove} removeLabel="Remove: Acorn" />);
  fireEvent.click(screen.getByLabelText("Acorn on"));
  fireEvent.click(screen.getByRole("button", { name: "Remove: Acorn" }));
  expect(onSwitch).toHaveBeenCalledExactlyOnceWith(false);
  expect(onRemove).toHaveBeenCalledOnce();
});
