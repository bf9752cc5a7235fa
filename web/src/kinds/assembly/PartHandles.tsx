import { useState } from "react";
import type { AssemblyDocument } from "../../api/client";
import { useBenchStore, type Spot } from "../../state/benchStore";
import type { Editing } from "../../state/useEditing";
import type { PlanGeometry } from "../../views/plan/geometry";
import { Handle } from "../common/picture/tools/Handle";
import { usePlaces } from "../common/picture/tools/usePlaces";
import { movedTo, withPart } from "./assemblyEdits";

interface Props {
  document: AssemblyDocument;
  editing: Editing;
  geometry: PlanGeometry;
}

const ARM_PX = 44;

/** Moves every part on the Plan by its middle, and turns the one that is worked on by an arm. */
export function PartHandles({ document, editing, geometry }: Props) {
  const { toPlan } = usePlaces(geometry);
  const opId = useBenchStore((state) => state.opId);
  const set = useBenchStore((state) => state.set);
  const [dragged, setDragged] = useState<{ id: string; by: Spot } | null>(null);
  const keep = (id: string, what: string, change: Parameters<typeof withPart>[2]) => {
    const part = document.assembly.find((each) => each.id === id);
    if (part) editing.keep(`${part.name} ${what}`, { assembly: withPart(document.assembly, id, change) });
  };
  return (
    <g>
      {document.assembly
        .filter(({ on }) => on)
        // Where handles lie on each other, that of the part that is worked on is uppermost.
        .sort((one, other) => Number(one.id === opId) - Number(other.id === opId))
        .map((part) => {
          const stands = toPlan({ x: part.x_mm, y: part.y_mm });
          const by = dragged?.id === part.id ? dragged.by : { x: 0, y: 0 };
          const at = { x: stands.x + by.x, y: stands.y + by.y };
          const angle = (part.turn_z_deg * Math.PI) / 180;
          const arm = ARM_PX / geometry.scale;
          const end = { x: at.x + arm * Math.cos(angle), y: at.y + arm * Math.sin(angle) };
          const [from, to, tip] = [geometry.toPx(stands), geometry.toPx(at), geometry.toPx(end)];
          return (
            <g key={part.id}>
              <path d={`M${from.x} ${from.y}L${to.x} ${to.y}`} stroke="#2c6f62" strokeDasharray="3 3" pointerEvents="none" />
              {opId === part.id && (
                <>
                  <path d={`M${to.x} ${to.y}L${tip.x} ${tip.y}`} stroke="#2c6f62" strokeWidth={1.5} pointerEvents="none" />
                  <Handle
                    label={`Turn ${part.name}`}
                    testId="part-arm"
                    geometry={geometry}
                    at={end}
                    cursor="grab"
                    onMove={(moved, kept) => {
                      if (!kept) return;
                      const turned = (Math.atan2(end.y + moved.y - at.y, end.x + moved.x - at.x) * 180) / Math.PI;
                      keep(part.id, "turned", { turn_z_deg: Math.round(turned * 10) / 10 });
                    }}
                  />
                </>
              )}
              <g onPointerDownCapture={() => set({ opId: part.id })}>
                <Handle
                  label={`Middle of ${part.name}`}
                  testId={`part-${part.name}`}
                  geometry={geometry}
                  at={at}
                  onMove={(moved, kept) => {
                    if (!kept) return setDragged({ id: part.id, by: moved });
                    setDragged(null);
                    if (Math.hypot(moved.x, moved.y) > 0) keep(part.id, "moved", movedTo(part, moved));
                  }}
                />
              </g>
              <text x={to.x + 12} y={to.y - 8} className="part-name" pointerEvents="none">
                {part.name}
              </text>
            </g>
          );
        })}
    </g>
  );
}
