import type { PanelDocument } from "../../../api/client";

export type Opening = PanelDocument["body"]["openings"][number];
export type OpeningKind = Opening["kind"];

interface Field {
  name: string;
  label: string;
  lowest: number;
  highest: number;
  step: number;
  /** In degrees; otherwise a length. */
  angle?: boolean;
}

interface Kind {
  title: string;
  hint: string;
  fields: readonly Field[];
}

const length = (name: string, label: string, lowest: number, highest: number): Field => ({ name, label, lowest, highest, step: 0.1 });

/** What can be cut out of a body, and its measures. */
export const OPENINGS: Record<OpeningKind, Kind> = {
  "hanging-hole": {
    title: "Hanging hole",
    hint: "Round, right through, below the middle of the top edge.",
    fields: [length("diameter_mm", "Diameter", 0.2, 200), length("from_edge_mm", "Middle below the edge", 0.1, 1000)],
  },
  "corner-holes": {
    title: "Corner holes",
    hint: "Four round holes for screws.",
    fields: [length("diameter_mm", "Diameter", 0.2, 200), length("inset_mm", "Middle inside the edges", 0.1, 1000)],
  },
  keyhole: {
    title: "Keyhole",
    hint: "A pocket in the back that slips over a screw head. It needs a backing thicker than it is deep.",
    fields: [
      length("head_mm", "Mouth", 0.5, 100),
      length("neck_mm", "Slot", 0.3, 100),
      length("rise_mm", "Slot upwards", 0.1, 200),
      length("lip_mm", "Lip", 0.1, 50),
      length("depth_mm", "Depth", 0.3, 100),
      length("from_edge_mm", "Mouth below the edge", 0.1, 1000),
    ],
  },
  "stand-slot": {
    title: "Stand slot",
    hint: "A leaning groove across the back that takes a strip for a prop.",
    fields: [
      length("length_mm", "Length", 1, 2000),
      length("thickness_mm", "Strip thickness", 0.3, 50),
      length("depth_mm", "Depth", 0.3, 100),
      { name: "lean_deg", label: "Lean", lowest: 0, highest: 45, step: 1, angle: true },
      length("from_edge_mm", "Above the bottom edge", 0.1, 1000),
    ],
  },
};

/** The list with one opening changed. */
export function withOpeningChanged(openings: readonly Opening[], at: number, change: Record<string, unknown>): Opening[] {
  return openings.map((opening, i) => (i === at ? ({ ...opening, ...change } as Opening) : opening));
}
