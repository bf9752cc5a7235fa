import { useEffect, useMemo, useRef, useState, type PointerEvent, type WheelEvent } from "react";
import { useBenchStore, type Line, type Spot } from "../../bench/benchStore";
import { clampShare, FIRST_LINE, lineInMm } from "../spot";
import { useSize } from "../useSize";
import { paintRelief, paintTones } from "./paint";
import { LineTool } from "./LineTool";
import { Rulers, RULER_PX } from "./Rulers";

const MARGIN_PX = 16;
const CLOSEST = 40;

/** The piece from above, in mm: the picture, or the heights it became. */
export function PlanView() {
  const plan = useBenchStore((state) => state.plan);
  const [frame, size] = useSize<HTMLDivElement>();
  const [zoom, setZoom] = useState({ factor: 1, x: 0, y: 0 });
  const set = useBenchStore((state) => state.set);
  const cursor = useBenchStore((state) => state.cursor);
  const station = useBenchStore((state) => state.station);
  const line = useBenchStore((state) => state.line) ?? FIRST_LINE;
  const panning = useRef<Spot | null>(null);

  const [width, depth] = plan?.head.size_mm ?? [1, 1];
  const roomX = size.width - RULER_PX - 2 * MARGIN_PX;
  const roomY = size.height - RULER_PX - 2 * MARGIN_PX;
  const scale = Math.max(1e-6, Math.min(roomX / width, roomY / depth) * zoom.factor);
  const left = RULER_PX + MARGIN_PX + (roomX - width * scale) / 2 + zoom.x;
  const bottom = RULER_PX + MARGIN_PX + (roomY + depth * scale) / 2 + zoom.y;

  const spotAt = (event: { clientX: number; clientY: number }): Spot => {
    const box = frame.current?.getBoundingClientRect();
    return {
      x: (event.clientX - (box?.left ?? 0) - left) / scale,
      y: (bottom - (event.clientY - (box?.top ?? 0))) / scale,
    };
  };
  const onMove = (event: PointerEvent) => {
    if (panning.current) {
      const moved = { x: event.clientX - panning.current.x, y: event.clientY - panning.current.y };
      panning.current = { x: event.clientX, y: event.clientY };
      setZoom((now) => ({ ...now, x: now.x + moved.x, y: now.y + moved.y }));
      return;
    }
    const spot = spotAt(event);
    const inside = spot.x >= 0 && spot.y >= 0 && spot.x <= width && spot.y <= depth;
    set({ cursor: inside ? spot : null });
  };
  const onWheel = (event: WheelEvent) => {
    const factor = Math.min(CLOSEST, Math.max(1, zoom.factor * Math.exp(-event.deltaY * 0.0015)));
    if (factor === 1) {
      setZoom({ factor: 1, x: 0, y: 0 });
      return;
    }
    const spot = spotAt(event);
    const growth = (factor / zoom.factor - 1) * scale;
    setZoom({
      factor,
      x: zoom.x - (spot.x - width / 2) * growth,
      y: zoom.y + (spot.y - depth / 2) * growth,
    });
  };
  const moveLine = (part: Partial<Line>) => set({ line: { ...line, ...part } });

  return (
    <div ref={frame} className="pane pane-plan" role="group" aria-label="Plan">
      <span className="pane-name">Plan</span>
      {plan && size.width > 0 && (
        <>
          <PlanPicture left={left} bottom={bottom} scale={scale} />
          <svg
            className="plan-surface"
            data-testid="plan-surface"
            onPointerMove={onMove}
            onPointerLeave={() => set({ cursor: null })}
            onPointerDown={(event) => {
              if (zoom.factor > 1 || event.button === 1) panning.current = { x: event.clientX, y: event.clientY };
            }}
            onPointerUp={() => (panning.current = null)}
            onWheel={onWheel}
            onDoubleClick={() => setZoom({ factor: 1, x: 0, y: 0 })}
          >
            {station !== "picture" && (
              <LineTool
                line={lineInMm(line, plan.head.size_mm)}
                toPx={(spot) => ({ x: left + spot.x * scale, y: bottom - spot.y * scale })}
                toMm={spotAt}
                onMove={(moved) => {
                  const share = (spot: Spot) => ({ x: clampShare(spot.x / width), y: clampShare(spot.y / depth) });
                  moveLine({ start: share(moved.start), end: share(moved.end) });
                }}
              />
            )}
            {cursor && <Crosshair x={left + cursor.x * scale} y={bottom - cursor.y * scale} />}
            <Rulers width={size.width} height={size.height} left={left} bottom={bottom} scale={scale} cursor={cursor} />
          </svg>
        </>
      )}
    </div>
  );
}

function Crosshair({ x, y }: Spot) {
  return (
    <g pointerEvents="none">
      <circle cx={x} cy={y} r={6} fill="none" stroke="#fff" strokeWidth={3} />
      <circle cx={x} cy={y} r={6} fill="none" stroke="#2a2d2e" strokeWidth={1.4} />
    </g>
  );
}

/** The grid of samples as a picture; the outermost samples lie on the edges of the piece. */
function PlanPicture({ left, bottom, scale }: { left: number; bottom: number; scale: number }) {
  const plan = useBenchStore((state) => state.plan);
  const light = useBenchStore((state) => state.light);
  const station = useBenchStore((state) => state.station);
  const canvas = useRef<HTMLCanvasElement>(null);
  const asPicture = station === "picture";
  const lamp = asPicture ? null : light;
  const pixels = useMemo(() => {
    if (!plan) return null;
    return lamp ? paintRelief(plan.grid, plan.head.pitch_mm, lamp) : paintTones(plan.grid);
  }, [plan, lamp]);

  useEffect(() => {
    if (!pixels || !plan) return;
    const { columns, rows } = plan.grid;
    canvas.current?.getContext("2d")?.putImageData(new ImageData(pixels, columns, rows), 0, 0);
  }, [pixels, plan]);

  if (!plan) return null;
  const { columns, rows } = plan.grid;
  const [width, depth] = plan.head.size_mm;
  const acrossPx = (width * scale) / (columns - 1);
  const downPx = (depth * scale) / (rows - 1);
  return (
    <canvas
      ref={canvas}
      data-testid="plan-picture"
      width={columns}
      height={rows}
      style={{
        position: "absolute",
        left: left - acrossPx / 2,
        top: bottom - depth * scale - downPx / 2,
        width: columns * acrossPx,
        height: rows * downPx,
        boxShadow: "0 1px 6px rgb(42 45 46 / 22%)",
      }}
    />
  );
}
