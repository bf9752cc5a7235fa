// @vitest-environment happy-dom
import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { LithophaneDocument } from "../../api/client";
import { freshServer } from "../../testing/server";
import { begun, editing, keep, kept, pieceOf, show } from "../../testing/stations";
import type { LithophaneStationProps } from "../common/stationProps";
import { ColourCard } from "./ColourCard";
import { LampCard } from "./LampCard";
import { bandsIn } from "./colourTable";

beforeEach(freshServer);
afterEach(() => {
  cleanup();
  keep.mockReset();
});

function props(change: Record<string, unknown>): LithophaneStationProps {
  const document = begun("LithophaneDocument", change) as unknown as LithophaneDocument;
  return { piece: pieceOf("lithophane", document as never), pieceId: "p1", revision: 1, document, editing } as unknown as LithophaneStationProps;
}

test("colours are listed in their order with the layers that they lie in", () => {
  show(<ColourCard {...props({ colours: { on: true, layers: 3 } })} />, "lithophane");
  const rows = screen.getAllByRole("listitem").map((row) => row.textContent);
  expect(rows).toEqual(["Cyanlayers 1 to 3", "Magentalayers 4 to 6", "Yellowlayers 7 to 9"]);
});

test("the measured table is kept once it is left", () => {
  show(<ColourCard {...props({ colours: { on: true } })} />, "lithophane");
  const field = screen.getByLabelText<HTMLTextAreaElement>(/Name, mm, and the shares/);
  expect(field.value).toContain("Magenta,0.4");
  fireEvent.change(field, { target: { value: "Amber,0.2,0.9,0.6,0.1" } });
  expect(keep).not.toHaveBeenCalled();
  fireEvent.blur(field);
  expect(kept()).toEqual(["Table of colours", { colours: { table: "Amber,0.2,0.9,0.6,0.1" } }]);
});

test("a bent form says that it has none, and a card that is off says what they are", () => {
  show(<ColourCard {...props({ colours: { on: true }, form: { kind: "cylinder" } })} />, "lithophane");
  expect(screen.getByText(/Only a flat wall/)).toBeTruthy();
  show(<ColourCard {...props({})} />, "lithophane");
  expect(screen.queryByRole("listitem")).toBeNull();
  fireEvent.click(screen.getByLabelText("Colour layers on"));
  expect(kept()).toEqual(["Colour layers on", { colours: { on: true } }]);
});

test("a lamp is chosen by its name or by its colour", () => {
  show(<LampCard {...props({})} />, "lithophane");
  const named = screen.getByLabelText<HTMLSelectElement>("Colour of the lamp, by name");
  expect(named.selectedOptions[0]?.textContent).toBe("Its own");
  const candle = [...named.options].find((option) => option.textContent?.startsWith("Candle"));
  fireEvent.change(named, { target: { value: candle?.value } });
  expect(kept()).toEqual(["Colour of the lamp candle, 1900 k", { lamp: { colour: candle?.value } }]);
});

test.each([
  ["", []],
  ["name,mm,red,green,blue\nA,0.1,1,1,1", ["A"]],
  ["A,0.1,90%,10%,1 # read twice\nB,0.1,1,1\nB,0.2,1,x,1", ["A"]],
])("a table of %j tells %j", (table, names) => {
  expect(bandsIn(table).map((band) => band.name)).toEqual(names);
});

test("of several layers the thickest tells the colour", () => {
  expect(bandsIn("A,0.4,0.1,0.2,30%\nA,0.1,0.5,0.6,0.7")[0]?.passed).toEqual([0.1, 0.2, 0.3]);
});
