import { useRef, useState, type PointerEvent } from "react";
import { useBenchStore, type Spot } from "../../../../state/benchStore";
import type { PlanGeometry } from "../../../../views/plan/geometry";
import { MOST_PLACES, type BrushStroke } from "./strokes";
import { usePlaces } from "./usePlaces";

const CLOSEST_PX = 1.5;

interface Props {
  label: string;
  geometry: PlanGeometry;
  colour: string;
  inside?: boolean;
  /** From millimetres on the Plan to what is kept; shares of the source when left out. */
  toPlace?: (spot: Spot) => Spot;
  onStroke: (stroke: BrushStroke, kept: boolean) => void;
}

/** Takes strokes from mouse, finger or pen over the whole Plan, and shows the brush. */
export function StrokeSurface({ label, geometry, colour, inside = true, toPlace, onStroke }: Props) {
  const brush = useBenchStore((state) => state.brush);
  const { toSource } = usePlaces(geometry);
  const drawn = useRef<{ px: Spot; place: [number, number, number] }[] | null>(null);
  const [at, setAt] = useState<Spot | null>(null);
  const radius = Math.max(1.5, (brush.sizeMm * geometry.scale) / 2);

  const stroke = (): BrushStroke => ({
    places: (drawn.current ?? []).map(({ place }) => place),
    size_mm: brush.sizeMm,
    hardness: brush.hardness,
    inside,
  });
  const add = (event: PointerEvent) => {
    const spot = geometry.toMm(event);
    const px = geometry.toPx(spot);
    const last = drawn.current?.at(-1)?.px;
    if (last && Math.hypot(px.x - last.x, px.y - last.y) < CLOSEST_PX) return false;
    if ((drawn.current?.length ?? 0) >= MOST_PLACES) return false;
    const { x, y } = (toPlace ?? toSource)(spot);
    if (brush.straight && drawn.current && drawn.current.length > 1) drawn.current.pop();
    const pressure = event.pointerType === "pen" ? Math.max(0.05, event.pressure) : 1;
    drawn.current?.push({ px, place: [x, y, pressure] });
    return true;
  };
  return (
    <g>
      <rect
        className="stroke-surface"
        data-testid="stroke-surface"
        aria-label={label}
        width="100%"
        height="100%"
        fill="transparent"
        onPointerDown={(event) => {
          if (event.button !== 0) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          drawn.current = [];
          add(event);
          onStroke(stroke(), false);
        }}
        onPointerMove={(event) => {
          setAt(geometry.toPx(geometry.toMm(event)));
          if (drawn.current && add(event)) onStroke(stroke(), false);
        }}
        onPointerUp={() => {
          if (drawn.current?.length) onStroke(stroke(), true);
          drawn.current = null;
        }}
        onPointerLeave={() => setAt(null)}
      />
      {at && (
        <g pointerEvents="none">
          <circle cx={at.x} cy={at.y} r={radius} fill="none" stroke="#fbf8f2" strokeWidth={3} opacity={0.8} />
          <circle cx={at.x} cy={at.y} r={radius} fill="none" stroke={colour} strokeWidth={1.5} />
        </g>
      )}
    </g>
  );
}
