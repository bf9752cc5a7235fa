import type { MendStep, OutlinesView } from "../../api/client";
import type { PartSchema } from "../../api/parts";
import type { SharePlace } from "../../state/outlineStore";

export type MendKind = MendStep["kind"];

/** Kinds that are added otherwise than from the list: nodes on the Plan, motifs from the library. */
export const ADDED_ELSEWHERE: readonly string[] = ["node", "motif"];

/** Whether a kind of step works on chosen outlines. */
export function chooses(part: PartSchema): boolean {
  return "chosen" in part.defaults;
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
