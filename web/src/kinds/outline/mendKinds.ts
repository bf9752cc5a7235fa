import type { MendStep, OutlinesView } from "../../api/client";
import type { SharePlace } from "../../state/outlineStore";

export type MendKind = MendStep["kind"];

interface Kind {
  title: string;
  hint: string;
  /** What a new step is like; the page shows it before the server has kept it. */
  fresh: Record<string, unknown>;
  /** Whether it works on chosen outlines. */
  chooses: boolean;
}

export const MENDS: Record<MendKind, Kind> = {
  delete: { title: "Take away", hint: "The chosen outlines go.", fresh: { chosen: [] }, chooses: true },
  keep: { title: "Keep only", hint: "Everything but the chosen outlines goes.", fresh: { chosen: [] }, chooses: true },
  "drop-tiny": { title: "Drop specks", hint: "Outlines round less than this go.", fresh: { smallest_mm2: 1 }, chooses: false },
  "drop-doubles": { title: "Drop doubles", hint: "Of outlines that are there twice, one stays.", fresh: {}, chooses: false },
  "close-gaps": { title: "Join open ends", hint: "Ends no further apart than this are joined.", fresh: { reach_mm: 1 }, chooses: false },
  uncross: { title: "Undo crossings", hint: "Edges that cross themselves are drawn anew around what they enclose.", fresh: { chosen: [] }, chooses: true },
  move: {
    title: "Move, turn, scale",
    hint: "About the middle of what is chosen, or about a picked place.",
    fresh: { chosen: [], x_mm: 0, y_mm: 0, turn_deg: 0, scale: 1, mirror: "none", about: null },
    chooses: true,
  },
  align: { title: "Line up", hint: "Along one side of what is chosen.", fresh: { chosen: [], side: "middle" }, chooses: true },
  spread: {
    title: "Repeat",
    hint: "Along a row, over a grid or round a ring.",
    fresh: { chosen: [], along: "row", count: 3, rows: 1, x_mm: 20, y_mm: 0, about: [0.5, 0.5] },
    chooses: true,
  },
  combine: { title: "Combine", hint: "The chosen outlines become one.", fresh: { chosen: [], how: "union" }, chooses: true },
  offset: { title: "Grow or shrink", hint: "All round by the same distance; below 0 shrinks.", fresh: { chosen: [], by_mm: 1, join: "round" }, chooses: true },
  fill: { title: "Fill", hint: "Holes go, closed strokes become areas.", fresh: { chosen: [] }, chooses: true },
  simplify: { title: "Fewer nodes", hint: "As few as stay within this distance.", fresh: { chosen: [], tolerance_mm: 0.05 }, chooses: true },
  widen: { title: "Widen thin places", hint: "Only where it is narrower than this.", fresh: { narrower_than_mm: 1, by_mm: 0.5 }, chooses: false },
  node: {
    title: "Node",
    hint: "One node of an outline, moved or made another.",
    fresh: { action: "move", place: [0.5, 0.5], x_mm: 0, y_mm: 0 },
    chooses: false,
  },
  motif: { title: "Motif", hint: "Outlines from the library, laid over these.", fresh: {}, chooses: false },
};

/** Kinds that are added otherwise than from the list: nodes on the Plan, motifs from the library. */
export const ADDED_ELSEWHERE: readonly MendKind[] = ["node", "motif"];

/** A whole step with an id of its own. */
export function newMend(kind: string, parameters: Record<string, unknown> = {}): Record<string, unknown> {
  const fresh = kind in MENDS ? MENDS[kind as MendKind].fresh : {};
  return { kind, id: globalThis.crypto.randomUUID().slice(0, 8), on: true, ...fresh, ...parameters };
}

/** The outlines that can be worked on: those of the paper only repeat the edges of what lies on it. */
export function shownCurves(view: OutlinesView): OutlinesView["curves"] {
  return view.curves.filter((curve) => !view.layers[curve.layer]?.ground);
}

/** Places that stand for the chosen outlines in a step: a node in the middle of each. */
export function placesOf(view: OutlinesView, chosen: readonly number[]): SharePlace[] {
  return chosen.flatMap((number) => {
    const nodes = view.curves[number]?.nodes ?? [];
    const node = nodes[Math.floor(nodes.length / 2)];
    return node ? [[(node[0] ?? 0) / view.width_mm, (node[1] ?? 0) / view.width_mm] as SharePlace] : [];
  });
}
