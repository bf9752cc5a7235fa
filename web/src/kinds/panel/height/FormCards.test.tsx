// @vitest-environment happy-dom
import { freshServer, on } from "../../../testing/server";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { PanelDocument } from "../../../api/client";
import { useBenchStore } from "../../../state/benchStore";
import { useDepthStore } from "../../../state/depthStore";
import { onPage, useShowing } from "../../../testing/page";
import { dragOver, PLAN } from "../../../testing/plan";
import { begun, editing, keep, kept, otherwise, part, pieceOf, show, type, typedIn } from "../../../testing/stations";
import { DepthMarks } from "../../common/depth/DepthMarks";
import { DepthTool } from "../../common/depth/DepthTools";
import { patchAt } from "../../common/fields/patchAt";
import { HeightStation } from "./HeightStation";

const FARTHER = part("ReliefStroke", { id: "s1", kind: "farther", places: [[0.5, 0.5, 1], [0.6, 0.5, 1]], amount_mm: 6 });

beforeEach(() => {
  freshServer();
  on("GET /api/materials", []);
  useBenchStore.setState({ unit: "mm", draft: null, brush: { sizeMm: 5, hardness: 0.8, inside: true, straight: false } });
  useDepthStore.setState({ kind: null, amountMm: 6, marking: false, showUnsure: false });
  useShowing.setState({ plan: undefined } as never);
});
afterEach(() => {
  cleanup();
  keep.mockReset();
  useShowing.setState({}, true);
});

const documentOf = (form: object) => begun("PanelDocument", { height: { form } }) as unknown as PanelDocument;
function station(form: object = {}) {
  const document = documentOf(form);
  show(<HeightStation piece={pieceOf("panel", document as never, [])} pieceId="p1" revision={1} document={document} editing={editing} />, "panel");
  return document;
}

describe("what heights follow", () => {
  test("is tones at first, and nothing of depth is shown", () => {
    station();
    expect(screen.getByRole("region", { name: "Tone to height" })).toBeTruthy();
    expect(screen.queryByRole("region", { name: "Depth" })).toBeNull();
    fireEvent.click(screen.getByRole("radio", { name: "Both" }));
    expect(kept()[1]).toEqual({ height: { form: { of: "both" } } });
  });

  test("is depth without fine tones, or with them", () => {
    station({ of: "depth" });
    expect(screen.queryByRole("region", { name: "Tone to height" })).toBeNull();
    expect(screen.queryByRole("region", { name: "Fine form from tones" })).toBeNull();
    station({ of: "both" });
    expect(screen.getByRole("region", { name: "Fine form from tones" })).toBeTruthy();
    expect(screen.getByRole("region", { name: "Depth" })).toBeTruthy();
  });

  test("keeps every number at its place", () => {
    const document = station({ of: "both" });
    for (const at of ["height.form", "height.form.fine"]) {
      for (const { field, place } of typedIn("PanelDocument", document as never, at)) {
        const value = place.split(".").reduce<unknown>((held, name) => (held as Record<string, unknown>)[name], document) as number;
        const { text, number } = otherwise(field, value);
        type(field.label, text);
        expect(keep.mock.lastCall?.[1], place).toEqual(patchAt(place, number));
      }
    }
    expect(keep.mock.calls.length).toBe(6);
  });
});

describe("by hand", () => {
  test("a stroke is drawn on the Plan and kept with the form, without a hole to be chosen", () => {
    const document = documentOf({ of: "depth" });
    station({ of: "depth" });
    expect(screen.queryByRole("button", { name: "Hole" })).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Nearer" }));
    expect(screen.getByText(/before it is held back/)).toBeTruthy();
    cleanup();
    useDepthStore.setState({ kind: "nearer" });
    render(
      <svg>
        <DepthTool document={document} editing={editing} geometry={PLAN} at="height.form" />
      </svg>,
      { wrapper: onPage(undefined, "panel") },
    );
    dragOver(screen.getByLabelText("Nearer"), [20, 20], [50, 30]);
    const change = kept()[1] as { height: { form: { strokes: { kind: string; size_mm: number }[] } } };
    expect(change.height.form.strokes).toHaveLength(1);
    expect(change.height.form.strokes[0]).toMatchObject({ kind: "nearer", size_mm: 5, amount_mm: 6 });
  });

  test("strokes and parts that count are seen over the Plan", () => {
    const document = documentOf({ of: "depth", strokes: [FARTHER, { ...FARTHER, id: "s2", on: false }], order: [part("OrderedPart", { id: "o", at: [0.2, 0.3] })] });
    render(
      <svg>
        <DepthMarks pieceId="p1" revision={1} document={document} geometry={PLAN} at="height.form" />
      </svg>,
      { wrapper: onPage(undefined, "panel") },
    );
    expect(screen.getByTestId("depth-strokes").querySelectorAll("path")).toHaveLength(1);
    expect(screen.getByTestId("depth-order").textContent).toBe("1");
  });

  test("a stroke is switched off and removed in the list", () => {
    station({ of: "depth", strokes: [FARTHER] });
    fireEvent.click(screen.getByRole("button", { name: "Remove stroke 1" }));
    expect(kept()).toEqual(["Farther removed", { height: { form: { strokes: [] } } }]);
  });
});
