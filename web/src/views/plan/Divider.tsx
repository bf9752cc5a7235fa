import { useRef } from "react";
import { useBenchStore } from "../../state/benchStore";
import { clampShare } from "../spot";
import type { PlanGeometry } from "./geometry";

interface Props {
  geometry: PlanGeometry;
  share: number;
  /** What stands left and right of it. */
  before: string;
  after: string;
}

/** The line between before, on its left, and after; it can be dragged or moved by the arrow keys. */
export function Divider({ geometry, share, before, after }: Props) {
  const set = useBenchStore((state) => state.set);
  const held = useRef(false);
  const [width, depth] = geometry.size;
  const low = geometry.toPx({ x: share * width, y: 0 });
  const high = geometry.toPx({ x: share * width, y: depth });
  return (
    <g
      className="plan-handle"
      style={{ cursor: "ew-resize" }}
      role="slider"
      tabIndex={0}
      aria-label={`Divider between ${before} and ${after}`}
      aria-valuenow={Math.round(share * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
      data-testid="divider"
      onKeyDown={(event) => {
        const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
        if (!by) return;
        event.preventDefault();
        set({ divider: clampShare(share + by) });
      }}
      onPointerDown={(event) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        held.current = true;
      }}
      onPointerMove={(event) => {
        if (held.current) set({ divider: clampShare(geometry.toMm(event).x / width) });
      }}
      onPointerUp={() => (held.current = false)}
    >
      <path d={`M${low.x} ${low.y}V${high.y}`} stroke="#fbf8f2" strokeWidth={4} />
      <path d={`M${low.x} ${low.y}V${high.y}`} stroke="#2c6f62" strokeWidth={2} />
      <path d={`M${low.x} ${low.y}V${high.y}`} stroke="transparent" strokeWidth={22} />
      <g className="plan-tag" pointerEvents="none">
        <text x={low.x - 8} y={low.y - 10} textAnchor="end" stroke="#fbf8f2" strokeWidth={4} paintOrder="stroke">
          {before}
        </text>
        <text x={low.x + 8} y={low.y - 10} stroke="#fbf8f2" strokeWidth={4} paintOrder="stroke">
          {after}
        </text>
      </g>
    </g>
  );
}
