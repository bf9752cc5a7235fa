import { useRef, type KeyboardEvent, type PointerEvent } from "react";
import type { Line, Spot } from "../../state/benchStore";
import type { PointedAt } from "./geometry";

interface Props {
  line: Line;
  toPx: (spot: Spot) => Spot;
  toMm: (event: PointedAt) => Spot;
  onMove: (line: Line) => void;
}

type Grip = "start" | "end" | "whole";
const STEPS: Record<string, Spot> = {
  ArrowLeft: { x: -1, y: 0 },
  ArrowRight: { x: 1, y: 0 },
  ArrowUp: { x: 0, y: 1 },
  ArrowDown: { x: 0, y: -1 },
};
const NAMES: Record<Grip, string> = {
  start: "Start of the section line",
  end: "End of the section line",
  whole: "Section line",
};

/** The section line: both ends and the whole can be dragged, or moved by the arrow keys in steps of 1 mm. */
export function LineTool({ line, toPx, toMm, onMove }: Props) {
  const held = useRef<{ grip: Grip; at: Spot } | null>(null);
  const a = toPx(line.start);
  const b = toPx(line.end);
  const middle = { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 };

  const moveBy = (grip: Grip, dx: number, dy: number) => {
    const shift = (spot: Spot) => ({ x: spot.x + dx, y: spot.y + dy });
    const moved: Line = {
      start: grip === "end" ? line.start : shift(line.start),
      end: grip === "start" ? line.end : shift(line.end),
    };
    if (Math.hypot(moved.end.x - moved.start.x, moved.end.y - moved.start.y) > 0.5) onMove(moved);
  };
  const grip = (name: Grip, place: Spot) => (
    <g
      className="line-handle"
      tabIndex={0}
      role="button"
      aria-label={`${NAMES[name]}, arrow keys move it`}
      data-testid={`line-${name}`}
      onPointerDown={(event: PointerEvent<SVGGElement>) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        held.current = { grip: name, at: toMm(event) };
      }}
      onPointerMove={(event) => {
        if (held.current?.grip !== name) return;
        const at = toMm(event);
        moveBy(name, at.x - held.current.at.x, at.y - held.current.at.y);
        held.current.at = at;
      }}
      onPointerUp={() => (held.current = null)}
      onKeyDown={(event: KeyboardEvent) => {
        const step = STEPS[event.key];
        if (!step) return;
        event.preventDefault();
        event.stopPropagation();
        const size = event.shiftKey ? 0.1 : 1;
        moveBy(name, step.x * size, step.y * size);
      }}
    >
      <circle cx={place.x} cy={place.y} r={14} fill="transparent" />
      <circle cx={place.x} cy={place.y} r={name === "whole" ? 4.5 : 6} fill="#fbf8f2" stroke="#9c3524" strokeWidth={2} />
    </g>
  );

  return (
    <g>
      <path d={`M${a.x} ${a.y} L${b.x} ${b.y}`} stroke="#fbf8f2" strokeWidth={3} opacity={0.7} />
      <path d={`M${a.x} ${a.y} L${b.x} ${b.y}`} stroke="#9c3524" strokeWidth={1.4} strokeDasharray="7 4" />
      {grip("whole", middle)}
      {grip("start", a)}
      {grip("end", b)}
    </g>
  );
}
