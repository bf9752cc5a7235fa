import { WorkCard } from "../../ui/WorkCard";
import { BoundLength, switchAt } from "../common/bound";
import type { LithophaneStationProps } from "../common/stationProps";

type Parts = LithophaneStationProps["document"]["parts"];
type PartName = "foot" | "bottom" | "lid" | "rails" | "clip" | "hole";

interface Field {
  label: string;
  at: string;
  lowest: number;
  highest: number;
  to: number;
}

interface PartWords {
  part: PartName;
  title: string;
  words: string;
  /** Whether it needs a form that runs round, or one that does not. */
  round?: boolean;
  fields: Field[];
}

const PARTS: PartWords[] = [
  {
    part: "foot",
    title: "Foot",
    words: "A plate under the lower edge to stand on.",
    fields: [
      { label: "Reaches out", at: "margin_mm", lowest: 0.2, highest: 200, to: 40 },
      { label: "Foot height", at: "height_mm", lowest: 0.2, highest: 100, to: 10 },
    ],
  },
  {
    part: "bottom",
    title: "Lantern bottom",
    words: "It closes the form below, round a hole for the lamp.",
    round: true,
    fields: [
      { label: "Bottom thickness", at: "thickness_mm", lowest: 0.2, highest: 50, to: 8 },
      { label: "Hole for the lamp", at: "hole_mm", lowest: 0, highest: 900, to: 80 },
    ],
  },
  {
    part: "lid",
    title: "Lid seat",
    words: "A ledge inside the upper edge that a lid lies on.",
    round: true,
    fields: [
      { label: "Lid thickness", at: "depth_mm", lowest: 0.2, highest: 100, to: 8 },
      { label: "Ledge", at: "ledge_mm", lowest: 0.2, highest: 50, to: 5 },
    ],
  },
  {
    part: "rails",
    title: "Slide rails",
    words: "Tongues along both sides that slide into slots of a lamp.",
    round: false,
    fields: [
      { label: "Slot width", at: "slot_mm", lowest: 0.4, highest: 50, to: 8 },
      { label: "Rail depth", at: "depth_mm", lowest: 0.4, highest: 100, to: 12 },
    ],
  },
  {
    part: "clip",
    title: "Clip",
    words: "A hook behind the upper edge that hangs it over a board or a pane.",
    round: false,
    fields: [
      { label: "Clip slot", at: "slot_mm", lowest: 0.4, highest: 100, to: 20 },
      { label: "Clip width", at: "width_mm", lowest: 2, highest: 500, to: 80 },
      { label: "Clip length", at: "length_mm", lowest: 1, highest: 200, to: 40 },
    ],
  },
  {
    part: "hole",
    title: "Hanging hole",
    words: "Through the upper border; two on opposite sides where the form runs round.",
    fields: [
      { label: "Hole diameter", at: "diameter_mm", lowest: 0.5, highest: 50, to: 10 },
      { label: "Below the edge", at: "from_edge_mm", lowest: 0.4, highest: 200, to: 20 },
    ],
  },
];

/** What holds, hangs and closes the piece, where its form has room for it. */
export function PartCards({ document, editing }: LithophaneStationProps) {
  const round = document.form.kind !== "flat" && document.form.kind !== "arc";
  const fitting = PARTS.filter((part) => part.round === undefined || part.round === round);
  return (
    <>
      {fitting.map(({ part, title, words, fields }) => {
        const values = document.parts[part] as Parts[PartName] & Record<string, number>;
        return (
          <WorkCard key={part} title={title} on={values.on} onSwitch={switchAt(editing, title, `parts.${part}.on`)}>
            {values.on ? (
              fields.map(({ label, at, lowest, highest, to }) => (
                <BoundLength
                  key={at}
                  label={label}
                  editing={editing}
                  at={`parts.${part}.${at}`}
                  value={values[at] ?? 0}
                  lowest={lowest}
                  highest={highest}
                  slider={{ from: lowest, to }}
                  step={0.2}
                />
              ))
            ) : (
              <p className="quiet-label">{words}</p>
            )}
          </WorkCard>
        );
      })}
    </>
  );
}
