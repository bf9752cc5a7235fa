import { useRef, useState, type PointerEvent } from "react";
import type { OutlinesView } from "../../api/client";
import { useBenchStore, type Spot } from "../../state/benchStore";
import type { PlanGeometry } from "../../views/plan/geometry";
import { shownCurves } from "./mendKinds";
import { useOutlineStore, withPressed, type SharePlace } from "../../state/outlineStore";

const INK = "#1f5c50";
const CHOSEN = "#b5541c";
const FAULT = "#b3401f";

interface Props {
  view: OutlinesView;
  geometry: PlanGeometry;
  /** A node was dragged by so many mm. */
  onNodeMoved: (place: SharePlace, by: Spot) => void;
}

/** The outlines over the Plan: pressed or framed to be chosen, their nodes dragged, their faults marked. */
export function OutlineTools({ view, geometry, onNodeMoved }: Props) {
  const { mode, chosen, node, set } = useOutlineStore();
  const [frame, setFrame] = useState<{ from: Spot; to: Spot } | null>(null);
  const [dragged, setDragged] = useState<Spot | null>(null);
  const from = useRef<Spot | null>(null);
  const cursor = useBenchStore((state) => state.cursor);
  const curves = shownCurves(view);
  const origin = geometry.toPx({ x: 0, y: 0 });
  const place = (spot: readonly [number, number] | readonly number[]) => geometry.toPx({ x: spot[0] ?? 0, y: spot[1] ?? 0 });

  const press = (number: number, event: PointerEvent) => {
    event.stopPropagation();
    set({ chosen: withPressed(chosen, number, event.shiftKey || event.ctrlKey || event.metaKey), node: null });
  };
  const finishFrame = (more: boolean) => {
    if (!frame) return;
    const [low, high] = cornersOf(frame.from, frame.to);
    const inside = curves.filter((curve) => curve.nodes.every(([x = 0, y = 0]) => x >= low.x && x <= high.x && y >= low.y && y <= high.y));
    const wide = Math.hypot(high.x - low.x, high.y - low.y) * geometry.scale > 4;
    if (wide) set({ chosen: [...new Set([...(more ? chosen : []), ...inside.map((curve) => curve.number)])], node: null });
    else if (!more) set({ chosen: [], node: null });
    setFrame(null);
  };
  return (
    <g data-testid="outlines">
      <rect
        x={0}
        y={0}
        width="100%"
        height="100%"
        fill="transparent"
        onPointerDown={(event) => {
          event.stopPropagation();
          event.currentTarget.setPointerCapture(event.pointerId);
          const at = geometry.toMm(event);
          set({ pressed: [at.x / view.width_mm, at.y / view.width_mm] });
          setFrame({ from: at, to: at });
        }}
        onPointerMove={(event) => {
          const to = geometry.toMm(event);
          setFrame((now) => now && { ...now, to });
        }}
        onPointerUp={(event) => finishFrame(event.shiftKey)}
      />
      <g transform={`translate(${origin.x} ${origin.y}) scale(${geometry.scale} ${-geometry.scale})`}>
        {curves.map((curve) => {
          const picked = chosen.includes(curve.number);
          return (
            <path
              key={curve.number}
              d={curve.path}
              fill={curve.closed && curve.width_mm === null && picked ? CHOSEN : "none"}
              fillOpacity={0.14}
              stroke={picked ? CHOSEN : INK}
              strokeWidth={picked ? 2.2 : 1.4}
              vectorEffect="non-scaling-stroke"
              pointerEvents="none"
            />
          );
        })}
        {curves.map((curve) => (
          <path
            key={curve.number}
            d={curve.path}
            fill="none"
            stroke="transparent"
            strokeWidth={11}
            vectorEffect="non-scaling-stroke"
            pointerEvents="stroke"
            style={{ cursor: "pointer" }}
            data-testid={`outline-${curve.number}`}
            onPointerDown={(event) => press(curve.number, event)}
          />
        ))}
      </g>
      {view.gaps.map(([one, other], at) => {
        const [a, b] = [place(one), place(other)];
        return <path key={at} d={`M${a.x} ${a.y}L${b.x} ${b.y}`} stroke={FAULT} strokeWidth={3} strokeDasharray="3 3" pointerEvents="none" />;
      })}
      {view.flaws.map((flaw, at) => {
        const spot = place(flaw.where);
        return <circle key={at} cx={spot.x} cy={spot.y} r={8} fill="none" stroke={FAULT} strokeWidth={1.8} pointerEvents="none" />;
      })}
      {mode === "nodes" &&
        curves
          .filter((curve) => chosen.includes(curve.number))
          .flatMap((curve) =>
            curve.nodes.map((at, i) => {
              const share: SharePlace = [(at[0] ?? 0) / view.width_mm, (at[1] ?? 0) / view.width_mm];
              const held = node !== null && node.curve === curve.number && node.place[0] === share[0] && node.place[1] === share[1];
              const spot = place(held && dragged ? [(at[0] ?? 0) + dragged.x, (at[1] ?? 0) + dragged.y] : at);
              return (
                <rect
                  key={`${curve.number} ${i}`}
                  x={spot.x - 4}
                  y={spot.y - 4}
                  width={8}
                  height={8}
                  fill={held ? CHOSEN : "#fbf8f2"}
                  stroke={CHOSEN}
                  strokeWidth={1.6}
                  style={{ cursor: "move" }}
                  data-testid={`node-${curve.number}-${i}`}
                  onPointerDown={(event) => {
                    event.stopPropagation();
                    event.currentTarget.setPointerCapture(event.pointerId);
                    from.current = geometry.toMm(event);
                    set({ node: { curve: curve.number, place: share } });
                  }}
                  onPointerMove={(event) => {
                    if (!from.current) return;
                    const now = geometry.toMm(event);
                    setDragged({ x: now.x - from.current.x, y: now.y - from.current.y });
                  }}
                  onPointerUp={() => {
                    from.current = null;
                    if (dragged && Math.hypot(dragged.x, dragged.y) * geometry.scale > 2) onNodeMoved(share, dragged);
                    setDragged(null);
                  }}
                />
              );
            }),
          )}
      {cursor && <Pointer {...geometry.toPx(cursor)} />}
      {frame && <Frame a={geometry.toPx(frame.from)} b={geometry.toPx(frame.to)} />}
    </g>
  );
}

function Pointer({ x, y }: Spot) {
  return <circle cx={x} cy={y} r={6} fill="none" stroke="#2a2d2e" strokeWidth={1.4} pointerEvents="none" />;
}

function Frame({ a, b }: { a: Spot; b: Spot }) {
  const [low, high] = cornersOf(a, b);
  return (
    <rect
      x={low.x}
      y={low.y}
      width={high.x - low.x}
      height={high.y - low.y}
      fill={CHOSEN}
      fillOpacity={0.08}
      stroke={CHOSEN}
      strokeDasharray="4 3"
      pointerEvents="none"
    />
  );
}

function cornersOf(a: Spot, b: Spot): [Spot, Spot] {
  return [
    { x: Math.min(a.x, b.x), y: Math.min(a.y, b.y) },
    { x: Math.max(a.x, b.x), y: Math.max(a.y, b.y) },
  ];
}
