import { useRef, useState } from "react";
import type { LaidRelief, PanelDocument } from "../../../../api/client";
import { useBenchStore, type Spot } from "../../../../state/benchStore";
import type { Editing } from "../../../../state/useEditing";
import type { PlanGeometry } from "../../../../views/plan/geometry";
import { Handle } from "../../../common/picture/tools/Handle";
import { laidAt, placeOf, reachingTo, withLaid } from "./laidEdits";

interface Props {
  document: PanelDocument;
  editing: Editing;
  geometry: PlanGeometry;
}

/** Moves every laid relief on the Plan by its middle, and sizes and turns the one that is worked on by its right end. */
export function LaidTool({ document, editing, geometry }: Props) {
  const opId = useBenchStore((state) => state.opId);
  const set = useBenchStore((state) => state.set);
  // Where it was when it was taken: the document on screen moves along.
  const taken = useRef<{ middle: Spot; end: Spot } | null>(null);
  const [held, setHeld] = useState<{ id: string; change: Partial<LaidRelief> } | null>(null);
  const reliefs = document.height.laid;
  const show = (relief: LaidRelief, what: string, change: Partial<LaidRelief>, kept: boolean) => {
    const next = { height: { laid: withLaid(reliefs, relief.id, change) } };
    if (!kept) {
      setHeld({ id: relief.id, change });
      return editing.drag(next);
    }
    setHeld(null);
    taken.current = null;
    editing.keep(`${relief.name} ${what}`, next);
  };
  return (
    <g>
      {reliefs
        .filter(({ on }) => on)
        // Where handles lie on each other, those of the one that is worked on are uppermost.
        .sort((one, other) => Number(one.id === opId) - Number(other.id === opId))
        .map((relief) => {
          const { middle, end } = placeOf(held?.id === relief.id ? { ...relief, ...held.change } : relief, geometry.size);
          const hold = () => (taken.current ??= { middle, end });
          const [from, to] = [geometry.toPx(middle), geometry.toPx(end)];
          const path = `M${2 * from.x - to.x} ${2 * from.y - to.y}L${to.x} ${to.y}`;
          return (
            <g key={relief.id}>
              {opId === relief.id && (
                <>
                  <path d={path} stroke="#fbf8f2" strokeWidth={3} opacity={0.8} pointerEvents="none" />
                  <path d={path} stroke="#2c6f62" strokeWidth={1.5} pointerEvents="none" />
                  <Handle
                    label={`Right end of ${relief.name}, widens and turns`}
                    testId="laid-end"
                    geometry={geometry}
                    at={end}
                    cursor="ew-resize"
                    onMove={(by, kept) => {
                      const was = hold();
                      show(relief, "sized", reachingTo({ x: was.end.x + by.x, y: was.end.y + by.y }, was.middle), kept);
                    }}
                  />
                </>
              )}
              <g onPointerDownCapture={() => set({ opId: relief.id })}>
                <Handle
                  label={`Middle of ${relief.name}`}
                  testId={`laid-${relief.name}`}
                  geometry={geometry}
                  at={middle}
                  onMove={(by, kept) => {
                    const was = hold();
                    show(relief, "moved", laidAt({ x: was.middle.x + by.x, y: was.middle.y + by.y }, geometry.size), kept);
                  }}
                />
              </g>
              <text x={from.x + 12} y={from.y - 8} className="part-name" pointerEvents="none">
                {relief.name}
              </text>
            </g>
          );
        })}
    </g>
  );
}
