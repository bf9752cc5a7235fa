// @vitest-environment happy-dom
import { freshServer, on } from "../testing/server";
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { PieceView } from "../api/client";
import { onPage } from "../testing/page";
import { useBenchStore } from "../state/benchStore";
import type { FrameProps } from "./common/pageKind";
import { pagesOf } from "./registry";

const SHARED = { title: "A", light: { on: false, by: "triangles" }, maker: { name: "Yard", line_width_mm: 0.4, layer_mm: 0.2, bed_mm: [1, 2, 3] }, carving: { on: false, router: { name: "Yard router" } }, delivery: { format: "stl" }, paint: { on: false, colour: "#c9b79c" }, printing: { down: [0, 0, -1], bands: { on: false, colour: "#3d4a45", name: "", changes: [] } } };
const piece = (kind: string, document: object) => ({ id: "p1", revision: 3, kind, document: { ...SHARED, ...document } }) as unknown as PieceView;
const OUTLINES = piece("drawn", { drawing: {}, mend: [], solid: { kind: "raised" } });
const OPS = [
  { id: "a", kind: "invert", on: true },
  { id: "b", kind: "crop", on: true },
];

beforeEach(() => {
  freshServer();
  for (const address of ["GET /api/jobs?piece_id=p1", "GET /api/light-targets", "POST /api/pieces/p1/outlines", "GET /api/ops"]) on(address, []);
});
afterEach(cleanup);

const Frame = ({ children }: FrameProps) => <>{children}</>;

test("a kind that only a newer server knows has no pages", () => {
  expect(pagesOf(piece("hologram", {}))).toBeNull();
});

test("outlines are offered as files of their own, heights only where there are some", () => {
  useBenchStore.setState({ station: "deliver" });
  const pages = pagesOf(OUTLINES);
  if (!pages) throw new Error("There are no pages.");
  render(<pages.Bench piece={OUTLINES} document={OUTLINES.document} upto={null} Frame={Frame} />, { wrapper: onPage(undefined, "drawn") });
  const links = screen.getAllByRole<HTMLAnchorElement>("link").map((each) => each.getAttribute("href"));
  expect(links.filter((href) => href?.includes("outlines"))).toEqual(["/api/pieces/p1/outlines.svg", "/api/pieces/p1/outlines.dxf", "/api/pieces/p1/outlines.dxf?splines=true"]);
  expect(screen.queryByText("Heights as a picture")).toBeNull();
});

test.each([
  ["panel", "picture", "a", "in", ""],
  ["panel", "picture", "b", "out", "b"],
  ["panel", "picture", null, "end", null],
  ["panel", "height", "a", "out", null],
  ["lithophane", "picture", null, "end", "b"],
  ["lithophane", "light", "a", "out", null],
  ["traced", "picture", "b", "in", "a"],
  ["traced", "outlines", "a", "in", "b"],
  ["traced", "body", "a", "in", null],
  ["drawn", "outlines", null, "end", ""],
  ["drawn", "proof", null, "end", null],
  ["model", "body", null, "end", null],
] as const)("on a %s at %s with op %s the Plan looks at its %s", (kind, station, opId, look, upto) => {
  const shown = piece(kind, { ops: OPS });
  expect(pagesOf(shown)?.upto(shown.document, { station, opId, look })).toBe(upto);
});
