import { useRef } from "react";
import type { Spot } from "../../../../state/benchStore";
import { Handle } from "./Handle";
import type { ToolProps } from "./PictureTools";
import { usePlaces } from "./usePlaces";

const SMALLEST_MM = 0.5;

/** Moves, widens and turns what is laid over the picture. */
export function PlaceTool({ op, geometry, onDrag, onKeep }: ToolProps) {
  const taken = useRef<{ centre: Spot; width: number; angle: number; edge: Spot } | null>(null);
  const { toPlan, toSource } = usePlaces(geometry);
  const [sx, sy] = op.centre as readonly [number, number];
  const centre = toPlan({ x: sx, y: sy });
  const width = Number(op.width_mm);
  const angle = (Number(op.angle_deg) * Math.PI) / 180;
  const edge = { x: centre.x + (width / 2) * Math.cos(angle), y: centre.y + (width / 2) * Math.sin(angle) };
  const far = { x: 2 * centre.x - edge.x, y: 2 * centre.y - edge.y };
  const show = (label: string, parameters: Record<string, unknown>, kept: boolean) => {
    if (!kept) return onDrag(parameters);
    taken.current = null;
    onKeep(label, parameters);
  };
  const hold = () => (taken.current ??= { centre, width, angle: Number(op.angle_deg), edge });
  const [a, b] = [geometry.toPx(far), geometry.toPx(edge)];
  return (
    <g>
      <path d={`M${a.x} ${a.y}L${b.x} ${b.y}`} stroke="#fbf8f2" strokeWidth={3} opacity={0.8} pointerEvents="none" />
      <path d={`M${a.x} ${a.y}L${b.x} ${b.y}`} stroke="#2c6f62" strokeWidth={1.5} pointerEvents="none" />
      <Handle
        label="Right end, widens and turns"
        testId="place-edge"
        geometry={geometry}
        at={edge}
        cursor="ew-resize"
        onMove={(by, kept) => {
          const { centre: middle, edge: from } = hold();
          const away = { x: from.x + by.x - middle.x, y: from.y + by.y - middle.y };
          const reach = Math.max(SMALLEST_MM / 2, Math.hypot(away.x, away.y));
          const turned = (Math.atan2(away.y, away.x) * 180) / Math.PI;
          show("size", { width_mm: rounded(2 * reach), angle_deg: rounded(turned), ...heightFor(op, 2 * reach) }, kept);
        }}
      />
      <Handle
        label="Middle"
        testId="place-middle"
        geometry={geometry}
        at={centre}
        onMove={(by, kept) => {
          const from = hold().centre;
          const { x, y } = toSource({ x: from.x + by.x, y: from.y + by.y });
          show("moved", { centre: [x, y] }, kept);
        }}
      />
    </g>
  );
}

function heightFor(op: ToolProps["op"], width: number): Record<string, number> {
  if (typeof op.height_mm !== "number") return {};
  return { height_mm: rounded((op.height_mm / Number(op.width_mm)) * width) };
}

function rounded(value: number): number {
  return Math.round(value * 100) / 100;
}
