import { useRef, type KeyboardEvent } from "react";
import type { Spot } from "../../../../state/benchStore";
import { Handle } from "./Handle";
import type { ToolProps } from "./PictureTools";
import { nearestSide } from "./nearestSide";
import { usePlaces } from "./usePlaces";

type Point = readonly [number, number];
const ON_LINE_PX = 7;

/** Sets points of a drawn shape: a click adds one, at the end or into the side that it hits; Delete takes one away. */
export function PointsTool({ op, kept, geometry, onDrag, onKeep }: ToolProps) {
  const { toPlan, toSource } = usePlaces(geometry);
  const taken = useRef<readonly Point[] | null>(null);
  const points = op.points as readonly Point[];
  const spots = points.map(([x, y]) => toPlan({ x, y }));
  const closed = op.drawn === "area" || op.closed === true;
  const px = spots.map((spot) => geometry.toPx(spot));
  const add = (spot: Spot) => {
    const { x, y } = toSource(spot);
    const side = nearestSide(px, geometry.toPx(spot), closed);
    const at = side && side.away <= ON_LINE_PX ? side.after + 1 : points.length;
    onKeep(`point ${points.length + 1} set`, { points: [...points.slice(0, at), [x, y], ...points.slice(at)] });
  };
  const move = (at: number, by: Spot, done: boolean) => {
    const from = (taken.current ??= kept.points as readonly Point[]);
    const [sx, sy] = from[at] ?? [0, 0];
    const start = toPlan({ x: sx, y: sy });
    const { x, y } = toSource({ x: start.x + by.x, y: start.y + by.y });
    const next = { points: from.map((point, each) => (each === at ? [x, y] : point)) };
    if (!done) return onDrag(next);
    taken.current = null;
    onKeep("point moved", next);
  };
  const remove = (event: KeyboardEvent, at: number) => {
    if (event.key !== "Delete" && event.key !== "Backspace") return;
    event.preventDefault();
    onKeep("point taken away", { points: points.filter((_, each) => each !== at) });
  };
  const run = px.map(({ x, y }, at) => `${at ? "L" : "M"}${x} ${y}`).join("") + (closed && px.length > 2 ? "Z" : "");
  return (
    <g>
      <rect
        data-testid="points-surface"
        aria-label="Set points here"
        width="100%"
        height="100%"
        fill="transparent"
        style={{ cursor: "crosshair" }}
        onClick={(event) => add(geometry.toMm(event))}
      />
      <path d={run} fill="none" stroke="#fbf8f2" strokeWidth={3} opacity={0.8} pointerEvents="none" />
      <path d={run} fill="none" stroke="#2c6f62" strokeWidth={1.2} strokeDasharray="4 3" pointerEvents="none" />
      {spots.map((spot, at) => (
        <g key={at} onKeyDown={(event) => remove(event, at)} onClick={(event) => event.stopPropagation()}>
          <Handle label={`Point ${at + 1}, Delete takes it away`} testId={`point-${at + 1}`} geometry={geometry} at={spot} onMove={(by, done) => move(at, by, done)} />
        </g>
      ))}
    </g>
  );
}
