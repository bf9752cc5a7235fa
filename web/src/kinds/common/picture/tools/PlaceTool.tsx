import { useRef, useState } from "react";
import type { Spot } from "../../../../state/benchStore";
import { Handle } from "./Handle";
import type { ToolProps } from "./PictureTools";
import { usePlaces } from "./usePlaces";
import { WordsTool } from "./WordsTool";

const SMALLEST_MM = 0.5;

/** Moves, widens and turns what is laid over the picture. */
export function PlaceTool({ op, geometry, onDrag, onKeep }: ToolProps) {
  const taken = useRef<{ centre: Spot; width: number; angle: number; edge: Spot } | null>(null);
  const tallest = useRef<Spot | null>(null);
  const [writing, setWriting] = useState(false);
  const { toPlan, toSource } = usePlaces(geometry);
  const [sx, sy] = op.centre as readonly [number, number];
  const centre = toPlan({ x: sx, y: sy });
  const width = Number(op.width_mm);
  const angle = (Number(op.angle_deg) * Math.PI) / 180;
  const edge = { x: centre.x + (width / 2) * Math.cos(angle), y: centre.y + (width / 2) * Math.sin(angle) };
  const far = { x: 2 * centre.x - edge.x, y: 2 * centre.y - edge.y };
  const height = typeof op.height_mm === "number" ? op.height_mm : null;
  const top = (tall: number) => ({ x: centre.x - (tall / 2) * Math.sin(angle), y: centre.y + (tall / 2) * Math.cos(angle) });
  const isLettering = op.kind === "lettering";
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
      {height !== null && (
        <Handle
          label="Upper end, makes it taller"
          testId="place-top"
          geometry={geometry}
          at={top(height)}
          cursor="ns-resize"
          onMove={(by, kept) => {
            const from = (tallest.current ??= top(height));
            const reach = (from.x + by.x - centre.x) * -Math.sin(angle) + (from.y + by.y - centre.y) * Math.cos(angle);
            if (kept) tallest.current = null;
            show("height", { height_mm: rounded(Math.max(SMALLEST_MM, 2 * reach)) }, kept);
          }}
        />
      )}
      <g
        onDoubleClick={() => setWriting(isLettering)}
        onKeyDown={(event) => {
          if (event.key !== "Enter" || !isLettering || writing) return;
          event.preventDefault();
          setWriting(true);
        }}
      >
      <Handle
        label={isLettering ? "Middle, Enter or a double-click changes the words" : "Middle"}
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
      {writing && <WordsTool at={geometry.toPx(centre)} text={String(op.text)} onKeep={(text) => onKeep("words", { text })} onClose={() => setWriting(false)} />}
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
