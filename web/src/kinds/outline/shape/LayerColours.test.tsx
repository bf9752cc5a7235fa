// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import type { OutlinesView } from "../../../api/client";
import { LayerColours } from "./LayerColours";

const LAYERS = [{ name: "Black" }, { name: "Gray" }, { name: "White" }] as unknown as OutlinesView["layers"];
const keep = vi.fn();
afterEach(() => {
  cleanup();
  keep.mockReset();
});

const colours = (own: (string | null)[]) => render(<LayerColours document={{}} editing={{ keep, drag: vi.fn() }} colours={own} layers={LAYERS} />);
const kept = () => (keep.mock.calls.at(-1)?.[1] as { solid: { colours: (string | null)[] } }).solid.colours;

test("a layer is painted, and the others stay as they are", () => {
  colours(["#102030"]);
  fireEvent.click(screen.getByLabelText("White painted"));
  expect(kept()).toEqual(["#102030", null, "#c9b79c"]);
});

test("a layer's colour is chosen, or taken off", () => {
  colours([null, "#204080"]);
  expect(screen.queryByLabelText("Colour of Black")).toBeNull();
  fireEvent.change(screen.getByLabelText("Colour of Gray"), { target: { value: "#d0a030" } });
  expect(kept()).toEqual([null, "#d0a030", null]);
  fireEvent.click(screen.getByLabelText("Gray painted"));
  expect(kept()).toEqual([null, null, null]);
});
