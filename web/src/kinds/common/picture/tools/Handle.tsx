import { useRef, type KeyboardEvent } from "react";
import type { Spot } from "../../../../state/benchStore";
import type { PlanGeometry, PointedAt } from "../../../../views/plan/geometry";

interface Props {
  label: string;
  testId?: string;
  geometry: PlanGeometry;
  /** Where it stands, mm. */
  at: Spot;
  cursor?: string;
  /** Moved by so many mm since it was taken; `kept` at the end. */
  onMove: (by: Spot, kept: boolean) => void;
}

const STEPS: Record<string, Spot> = {
  ArrowLeft: { x: -1, y: 0 },
  ArrowRight: { x: 1, y: 0 },
  ArrowUp: { x: 0, y: 1 },
  ArrowDown: { x: 0, y: -1 },
};

/** A point on the Plan that can be dragged, or moved by the arrow keys in steps of 1 mm, with Shift 0.1 mm. */
export function Handle({ label, testId, geometry, at, cursor = "move", onMove }: Props) {
  const from = useRef<Spot | null>(null);
  const { x, y } = geometry.toPx(at);
  const moved = (event: PointedAt): Spot => {
    const spot = geometry.toMm(event);
    return { x: spot.x - (from.current?.x ?? spot.x), y: spot.y - (from.current?.y ?? spot.y) };
  };
  const onKey = (event: KeyboardEvent) => {
    const step = STEPS[event.key];
    if (!step) return;
    event.preventDefault();
    const size = event.shiftKey ? 0.1 : 1;
    onMove({ x: step.x * size, y: step.y * size }, true);
  };
  return (
    <g
      className="plan-handle"
      style={{ cursor }}
      tabIndex={0}
      role="button"
      aria-label={`${label}, arrow keys move it`}
      data-testid={testId}
      onKeyDown={onKey}
      onPointerDown={(event) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        from.current = geometry.toMm(event);
      }}
      onPointerMove={(event) => {
        if (from.current) onMove(moved(event), false);
      }}
      onPointerUp={(event) => {
        if (from.current) onMove(moved(event), true);
        from.current = null;
      }}
    >
      <circle cx={x} cy={y} r={13} fill="transparent" />
      <rect x={x - 5} y={y - 5} width={10} height={10} rx={2} fill="#fbf8f2" stroke="#2c6f62" strokeWidth={2} />
    </g>
  );
}
