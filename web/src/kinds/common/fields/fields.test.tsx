// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, test, vi } from "vitest";
import { fieldAt, kindsAt, partAt } from "../../../api/parts";
import type { Editing } from "../../../state/useEditing";
import { onPage } from "../../../testing/page";
import { PARTS } from "../../../testing/parts";
import { newRow } from "./newRow";
import { PartCard } from "./PartCard";
import { PartField, PartFields } from "./PartField";
import { RowFields } from "./RowFields";

const keep = vi.fn<Editing["keep"]>();
const drag = vi.fn<Editing["drag"]>();
const editing = { keep, drag };

afterEach(() => {
  cleanup();
  keep.mockReset();
  drag.mockReset();
});

const panel = (body: object) => ({ body: { ...PARTS.parts.PanelBodyPart?.defaults, ...body }, light: { on: false } });
const show = (ui: React.ReactNode, kind = "panel") => render(ui, { wrapper: onPage(undefined, kind) });
function type(label: string, text: string) {
  fireEvent.change(screen.getByLabelText(label), { target: { value: text } });
  fireEvent.keyDown(screen.getByLabelText(label), { key: "Enter" });
}

describe("the schema", () => {
  test("finds a parameter however deep it stands", () => {
    expect(fieldAt(PARTS, "PanelDocument", {}, "body.frame.width_mm")).toMatchObject({ label: "Frame width", unit: "mm", lowest: 0.1, highest: 500 });
  });

  test("tells parts of one place apart by what the document holds there", () => {
    expect(fieldAt(PARTS, "TracedDocument", { solid: { kind: "cutter" } }, "solid.mirror").label).toMatch(/what is cut/);
    expect(fieldAt(PARTS, "TracedDocument", { solid: { kind: "stamp" } }, "solid.mirror").label).toMatch(/print/);
  });

  test("tells what a list can hold, with words and starting values", () => {
    const kinds = kindsAt(PARTS, "PanelDocument", {}, "body.openings");
    expect(Object.keys(kinds)).toEqual(["hanging-hole", "corner-holes", "keyhole", "stand-slot"]);
    expect(kinds.keyhole).toMatchObject({ heading: "Keyhole", defaults: { kind: "keyhole", on: true, head_mm: 8 } });
  });

  test("says what it does not know", () => {
    expect(() => fieldAt(PARTS, "PanelDocument", {}, "body.wings")).toThrow("wings");
    expect(() => partAt(PARTS, "SpoonDocument", {}, "")).toThrow("SpoonDocument");
  });
});

describe("a field of the document", () => {
  test("shows and keeps what its place holds, within the limits of the server", () => {
    show(<PartField document={panel({ width_mm: 80 })} editing={editing} at="body.width_mm" />);
    type("Width", "90");
    expect(keep).toHaveBeenLastCalledWith("Width 90 mm", { body: { width_mm: 90 } });
    type("Width", "9000");
    expect(screen.getByRole("alert").textContent).toBe("1 mm to 3000 mm would be accepted.");
    expect(keep).toHaveBeenCalledTimes(1);
  });

  test("is not there where it does not count", () => {
    show(<PartField document={panel({ shape: "ellipse" })} editing={editing} at="body.corner_mm" />);
    expect(screen.queryByLabelText("Corner radius")).toBeNull();
    cleanup();
    show(<PartField document={panel({ shape: "rounded" })} editing={editing} at="body.corner_mm" />);
    expect(screen.getByLabelText("Corner radius")).toBeTruthy();
  });

  test("offers few alternatives side by side, and many in a list", () => {
    show(<PartField document={panel({})} editing={editing} at="body.back" />);
    fireEvent.click(screen.getByRole("radio", { name: "Follows" }));
    expect(keep).toHaveBeenLastCalledWith("The back is follows", { body: { back: "follow" } });
    show(<PartField document={panel({})} editing={editing} at="body.shape" />);
    fireEvent.change(screen.getByLabelText("Outline"), { target: { value: "polygon" } });
    expect(keep).toHaveBeenLastCalledWith("Outline polygon", { body: { shape: "polygon" } });
  });

  test("can be drawn with all others of its part", () => {
    show(<PartFields document={panel({ edge: { bevel_on: true, bevel_mm: 1, draft_on: false, draft_deg: 5 } })} editing={editing} at="body.edge" />);
    expect(screen.getByLabelText("Bevel")).toBeTruthy();
    expect(screen.queryByLabelText("Lean")).toBeNull();
    fireEvent.click(screen.getByLabelText("Walls lean inwards"));
    expect(keep).toHaveBeenLastCalledWith("Walls lean inwards on", { body: { edge: { draft_on: true } } });
  });
});

test("the card of a part says what it is for, and holds its fields while it is on", () => {
  show(<PartCard document={panel({ frame: { on: false } })} editing={editing} at="body.frame" />);
  expect(screen.getByText(/outermost part/)).toBeTruthy();
  expect(screen.queryByLabelText("Frame width")).toBeNull();
  fireEvent.click(screen.getByLabelText("Frame on"));
  expect(keep).toHaveBeenLastCalledWith("Frame on", { body: { frame: { on: true } } });
});

describe("an entry of a list", () => {
  const slot = kindsAt(PARTS, "PanelDocument", {}, "body.openings")["stand-slot"];
  if (!slot) throw new Error("There is one.");

  test("is whole before the server has seen it, with an id of its own", () => {
    expect(newRow(slot, { lean_deg: 20 })).toMatchObject({ kind: "stand-slot", on: true, length_mm: 30, lean_deg: 20 });
    expect(newRow(slot).id).not.toBe(newRow(slot).id);
  });

  test("is changed one parameter at a time", () => {
    const onKeep = vi.fn();
    show(<RowFields part={slot} row={{ length_mm: 30, lean_deg: 15 }} only={["length_mm", "lean_deg"]} onKeep={onKeep} />);
    type("Lean", "20");
    expect(onKeep).toHaveBeenLastCalledWith("lean 20°", { lean_deg: 20 });
    type("Length", "4 cm");
    expect(onKeep).toHaveBeenLastCalledWith("length 40 mm", { length_mm: 40 });
  });
});
