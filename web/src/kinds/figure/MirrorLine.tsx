import { useRef } from "react";
import type { FigureDocument } from "../../api/client";
import type { Spot } from "../../state/benchStore";
import type { Editing } from "../../state/useEditing";
import { clampShare } from "../../views/spot";
import type { PlanGeometry } from "../../views/plan/geometry";
import { Handle } from "../common/picture/tools/Handle";

interface Props {
  document: FigureDocument;
  geometry: PlanGeometry;
  editing: Editing;
}

const MOST_LEAN = 60;

/** The line of symmetry over the Plan, where it is drawn by hand: both ends can be dragged. */
export function MirrorLine({ document, geometry, editing }: Props) {
  const { symmetry } = document.figure;
  const taken = useRef<{ low: Spot; high: Spot } | null>(null);
  if (!symmetry.on || symmetry.by !== "hand") return null;
  const [width, depth] = geometry.size;
  const aside = (Math.tan((symmetry.lean_deg * Math.PI) / 180) * depth) / 2;
  const low = { x: symmetry.at * width + aside, y: 0 };
  const high = { x: symmetry.at * width - aside, y: depth };
  const move = (end: "low" | "high") => (by: Spot, kept: boolean) => {
    const from = (taken.current ??= { low, high });
    const ends = { ...from, [end]: { ...from[end], x: from[end].x + by.x } };
    const lean = (Math.atan2(ends.low.x - ends.high.x, depth) * 180) / Math.PI;
    const change = {
      at: Math.round(clampShare((ends.low.x + ends.high.x) / 2 / width) * 1e4) / 1e4,
      lean_deg: Math.round(Math.min(MOST_LEAN, Math.max(-MOST_LEAN, lean)) * 10) / 10,
    };
    if (!kept) return editing.drag({ figure: { symmetry: change } });
    taken.current = null;
    editing.keep("Line of symmetry moved", { figure: { symmetry: change } });
  };
  const [a, b] = [geometry.toPx(low), geometry.toPx(high)];
  return (
    <g data-testid="mirror-line">
      <path d={`M${a.x} ${a.y}L${b.x} ${b.y}`} stroke="#fbf8f2" strokeWidth={3} opacity={0.8} pointerEvents="none" />
      <path d={`M${a.x} ${a.y}L${b.x} ${b.y}`} stroke="#7a5ea8" strokeWidth={1.5} strokeDasharray="8 5" pointerEvents="none" />
      <Handle label="Lower end of the line of symmetry" testId="mirror-low" geometry={geometry} at={low} cursor="ew-resize" onMove={move("low")} />
      <Handle label="Upper end of the line of symmetry" testId="mirror-high" geometry={geometry} at={high} cursor="ew-resize" onMove={move("high")} />
    </g>
  );
}
