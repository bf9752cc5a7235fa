import { useRef, type KeyboardEvent, type PointerEvent } from "react";
import { useQuery } from "@tanstack/react-query";
import { fetchCurve } from "../api/ops";
import { isDraggedOut, withMoved, withPoint, type CurvePoint, type CurvePoints } from "./curvePoints";
import { histogramPath } from "./histogram";

const SIDE = 200;
const ROOM = 8;
const STEP = 0.01;

interface Props {
  label: string;
  points: CurvePoints;
  /** The histogram behind the curve. */
  counts: Uint32Array | undefined;
  /** What a point says of itself to a reader of the screen. */
  tell: (tone: number, becomes: number) => string;
  onDrag: (points: CurvePoints) => void;
  onKeep: (what: string, points: CurvePoints) => void;
}

/** A curve through points over a histogram: drag a point, press beside the curve to add one, drag it out to drop it. */
export function CurveGraph({ label, points, counts, tell, onDrag, onKeep }: Props) {
  const surface = useRef<SVGSVGElement>(null);
  const held = useRef<{ at: number; points: CurvePoints } | null>(null);
  const line = useQuery({
    queryKey: ["curve", points],
    queryFn: () => fetchCurve(points),
    placeholderData: (before) => before,
    staleTime: Infinity,
  }).data;

  const placeOf = (event: PointerEvent): CurvePoint => {
    const box = surface.current?.getBoundingClientRect();
    if (!box) return [0, 0];
    const share = (at: number, size: number) => (at * ((SIDE + 2 * ROOM) / size) - ROOM) / SIDE;
    return [share(event.clientX - box.left, box.width), 1 - share(event.clientY - box.top, box.height)];
  };
  const hold = (event: PointerEvent, at: number, from: CurvePoints) => {
    event.stopPropagation();
    surface.current?.setPointerCapture(event.pointerId);
    held.current = { at, points: from };
  };
  const during = (event: PointerEvent): CurvePoints | null => {
    if (!held.current) return null;
    const { at, points: from } = held.current;
    const place = placeOf(event);
    return isDraggedOut(from, at, place) ? from.filter((_, i) => i !== at) : withMoved(from, at, place);
  };
  const onKey = (at: number) => (event: KeyboardEvent) => {
    const [x, y] = points[at] ?? [0, 0];
    const inner = at > 0 && at < points.length - 1;
    const to: Record<string, CurvePoint> = {
      ArrowLeft: [x - STEP, y],
      ArrowRight: [x + STEP, y],
      ArrowUp: [x, y + STEP],
      ArrowDown: [x, y - STEP],
    };
    const place = to[event.key];
    if (place) onKeep("point moved", withMoved(points, at, place));
    else if (event.key === "Delete" && inner) onKeep("point removed", points.filter((_, i) => i !== at));
    else return;
    event.preventDefault();
  };
  const x = (tone: number) => tone * SIDE;
  const y = (tone: number) => (1 - tone) * SIDE;
  return (
    <svg
      ref={surface}
      className="tone-graph"
      viewBox={`${-ROOM} ${-ROOM} ${SIDE + 2 * ROOM} ${SIDE + 2 * ROOM}`}
      role="group"
      aria-label={label}
      onPointerDown={(event) => {
        const added = withPoint(points, placeOf(event));
        hold(event, added.at, added.points);
        onDrag(withMoved(added.points, added.at, placeOf(event)));
      }}
      onPointerMove={(event) => {
        const now = during(event);
        if (now) onDrag(now);
      }}
      onPointerUp={(event) => {
        const now = during(event);
        held.current = null;
        if (now) onKeep("curve bent", now);
      }}
    >
      <rect width={SIDE} height={SIDE} fill="#f1ece2" />
      {counts && <path d={histogramPath(counts, SIDE, SIDE)} fill="#d9ccb2" />}
      <path d={`M0 ${SIDE}L${SIDE} 0`} stroke="#b9ad97" strokeDasharray="3 4" />
      {line && (
        <path
          d={line.map((tone, i) => `${i ? "L" : "M"}${x(i / (line.length - 1))} ${y(tone)}`).join("")}
          fill="none"
          stroke="#2c6f62"
          strokeWidth={2}
        />
      )}
      {points.map(([tone, becomes], at) => (
        <circle
          key={at}
          className="tone-handle"
          tabIndex={0}
          role="slider"
          aria-label={`Point ${at + 1} of the curve`}
          aria-valuenow={Math.round(becomes * 100)}
          aria-valuetext={tell(tone, becomes)}
          cx={x(tone)}
          cy={y(becomes)}
          r={5.5}
          fill="#fbf8f2"
          stroke="#2c6f62"
          strokeWidth={2}
          onKeyDown={onKey(at)}
          onPointerDown={(event) => hold(event, at, points)}
        />
      ))}
    </svg>
  );
}
