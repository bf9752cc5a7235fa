import { isLithophane, isOutlined, isPanel, type AnyDocument, type OutlineSolid } from "../../api/client";
import type { MergePatch } from "../../api/preview";

export type ShapeKind = "panel" | "lithophane" | OutlineSolid["kind"];

export const SHAPES: Record<ShapeKind, string> = {
  panel: "Relief panel",
  lithophane: "Lithophane",
  raised: "Raised outline",
  cutter: "Clay cutter",
  stamp: "Stamp",
};

const FRESH: { [Kind in OutlineSolid["kind"]]: Record<string, unknown> } = {
  raised: {
    kind: "raised",
    thickness_mm: 3,
    heights_mm: [],
    base: { kind: "none", margin_mm: 3, thickness_mm: 1.2 },
    edge: "square",
    edge_mm: 0.5,
    edge_both: false,
    cut: false,
    shell: "none",
    shell_mm: 1.2,
    inlay: false,
    clearance_mm: 0.12,
  },
  cutter: {
    kind: "cutter",
    lines: 4,
    line_mm: 0.45,
    height_mm: 16,
    edge_mm: 0.8,
    edge_height_mm: 4,
    rim_mm: 4,
    rim_height_mm: 2.5,
    rim_round: false,
    clearance_mm: 0,
    holes: false,
    bars: 2,
    bar_mm: 4,
    handle_mm: 0,
    imprint: false,
    setback_mm: 3,
    setbacks_mm: [],
    plate_mm: 2,
    gap_mm: 0.6,
    mirror: true,
  },
  stamp: {
    kind: "stamp",
    relief_mm: 2,
    draft_deg: 5,
    plate: { kind: "rectangle", margin_mm: 2, thickness_mm: 3 },
    grip: "none",
    grip_mm: 18,
    mirror: true,
  },
};

/** What a piece is now. */
export function shapeOf(document: AnyDocument): ShapeKind {
  if (isLithophane(document)) return "lithophane";
  return isOutlined(document) ? document.solid.kind : "panel";
}

/** What a piece can be made: from a drawing or a model there is no way to what needs a picture. */
export function shapesFor(document: AnyDocument): ShapeKind[] {
  const outlines: ShapeKind[] = ["raised", "cutter", "stamp"];
  return "picture" in document ? ["panel", "lithophane", ...outlines] : outlines;
}

/** What each kind of piece has of its own, and what takes it away. */
const OWN: Record<"panel" | "lithophane" | "outlines", MergePatch> = {
  panel: { height: null, body: null, finish: null },
  lithophane: { glow: null, form: null, parts: null, lamp: null, finish: null },
  outlines: { trace: null, mend: null, solid: null, finish: null, width_mm: null },
};

/** The edit that makes a piece another thing; picture and steps stay. */
export function shapePatch(document: AnyDocument, kind: ShapeKind): MergePatch {
  const now = shapeOf(document);
  if (kind === now) return {};
  if (isOutlined(document) && kind !== "panel" && kind !== "lithophane") {
    const gone = Object.fromEntries(Object.keys(document.solid).map((key) => [key, null]));
    return { solid: { ...gone, ...FRESH[kind] } };
  }
  const width = widthOf(document);
  const gone = OWN[now === "panel" || now === "lithophane" ? now : "outlines"];
  if (kind === "panel") return { ...gone, body: { width_mm: Math.max(1, width) }, height: {} };
  if (kind === "lithophane") return { ...gone, glow: {}, form: { width_mm: Math.max(5, width) } };
  return { ...gone, width_mm: width, trace: {}, mend: [], solid: FRESH[kind] };
}

function widthOf(document: AnyDocument): number {
  if (isPanel(document)) return document.body.width_mm;
  if (isLithophane(document)) return document.form.width_mm;
  return isOutlined(document) ? document.width_mm : 80;
}
