import { useMemo, useRef, useState, type PointerEvent, type ReactNode, type WheelEvent } from "react";
import { MOTIF_TYPE, useLayMotif } from "../../api/motifs";
import type { Plan, ThinMap } from "../../api/preview";
import { useBenchStore, type Line, type Spot } from "../../state/benchStore";
import type { Before } from "./before";
import { screenPxPerMm } from "../../ui/trueSize";
import { clampShare, FIRST_LINE, lineInMm } from "../spot";
import { useSize } from "../useSize";
import { Divider } from "./Divider";
import type { PlanGeometry, PointedAt } from "./geometry";
import { GridLines } from "./GridLines";
import { LineTool } from "./LineTool";
import { paintRelief, paintThin, paintTones } from "./paint";
import { SheetLooks } from "./SheetLooks";
import { useStock } from "./stock";
import { paintSheet, SHEET_WORDS } from "./paintSheet";
import { PlanBar } from "./PlanBar";
import { PlanCanvas } from "./PlanCanvas";
import { PlanProgress } from "./PlanProgress";
import { RouterLegend, RouterPlan } from "./RouterPlan";
import { Rulers, RULER_PX } from "./Rulers";
import { useAwaited, useLook, usePlan } from "../../state/previews";

const MARGIN_PX = 16;
/** Kept free below the piece, so that the bar covers nothing that could be gripped. */
const BAR_PX = 28;
const CLOSEST = 40;
const WHOLE = { factor: 1, x: 0, y: 0 };

interface Props {
  pieceId: string;
  /** The picture before its steps, and whether there is one to compare with. */
  before: Before;
  /** Where strokes and gaps are too thin, when that is to be shown. */
  thin: ThinMap | null;
  /** What a station draws over the piece; while it does, a drag does not pan. */
  tools: ((geometry: PlanGeometry) => ReactNode) | null;
  /** What a station shows over the picture, in place of the heights; a drag pans through it. */
  marks?: ((geometry: PlanGeometry) => ReactNode) | null;
}

/** The piece from above, in mm: the picture, or the heights it became. */
export function PlanView({ pieceId, before, thin, tools, marks = null }: Props) {
  const plan = usePlan();
  const [frame, size] = useSize<HTMLDivElement>();
  const [zoom, setZoom] = useState(WHOLE);
  const set = useBenchStore((state) => state.set);
  const cursor = useBenchStore((state) => state.cursor);
  const station = useBenchStore((state) => state.station);
  const gridMm = useBenchStore((state) => state.gridMm);
  const divider = useBenchStore((state) => state.divider);
  const atSource = useLook().atSource;
  const sheetLook = useBenchStore((state) => state.sheetLook);
  const beside = useBenchStore((state) => state.sheetBeside);
  const line = useBenchStore((state) => state.line) ?? FIRST_LINE;
  const busy = useAwaited();
  const lay = useLayMotif(pieceId);
  const revision = useBenchStore((state) => state.revision);
  const panning = useRef<Spot | null>(null);

  const [width, depth] = plan?.head.size_mm ?? [1, 1];
  const roomX = size.width - RULER_PX - 2 * MARGIN_PX;
  const roomY = size.height - RULER_PX - 2 * MARGIN_PX - BAR_PX;
  const stock = useStock(pieceId, plan?.head.size_mm ?? []);
  // What is to be seen when all is shown: the piece, or the stock that it lies in.
  const whole = stock ?? { left: 0, low: 0, width, depth };
  const fitting = Math.max(1e-6, Math.min(roomX / whole.width, roomY / whole.depth));
  const scale = fitting * zoom.factor;
  const left = RULER_PX + MARGIN_PX + (roomX - whole.width * scale) / 2 - whole.left * scale + zoom.x;
  const bottom = RULER_PX + MARGIN_PX + (roomY + whole.depth * scale) / 2 + whole.low * scale + zoom.y;
  const trueFactor = screenPxPerMm() / fitting;

  const toPx = (spot: Spot): Spot => ({ x: left + spot.x * scale, y: bottom - spot.y * scale });
  const spotAt = (event: PointedAt): Spot => {
    const box = (event.currentTarget.closest("svg") ?? event.currentTarget).getBoundingClientRect();
    return { x: (event.clientX - box.left - left) / scale, y: (bottom - (event.clientY - box.top)) / scale };
  };
  const geometry: PlanGeometry = { scale, size: [width, depth], toPx, toMm: spotAt };
  const drawn = tools?.(geometry);
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
      setZoom(WHOLE);
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
  const onSheet = plan?.grid.window !== undefined;
  const sheetCompared = onSheet && divider !== null && beside !== null;
  const compared = station === "picture" && divider !== null && before.plan !== null;

  return (
    <div
      ref={frame}
      className="pane pane-plan"
      role="group"
      aria-label="Plan"
      aria-busy={busy}
      onDragOver={(event) => {
        if (event.dataTransfer.types.includes(MOTIF_TYPE)) event.preventDefault();
      }}
      onDrop={(event) => {
        const motif = event.dataTransfer.getData(MOTIF_TYPE);
        if (!motif || !frame.current) return;
        event.preventDefault();
        const box = frame.current.getBoundingClientRect();
        const [x, y] = [(event.clientX - box.left - left) / scale, (bottom - (event.clientY - box.top)) / scale];
        lay.mutate({ ...(JSON.parse(motif) as { motif_id: string; follow: boolean }), x: clampShare(x / width), y: clampShare(y / depth) });
      }}
    >
      <span className="pane-name">Plan</span>
      {plan && size.width > 0 && (
        <>
          <PlanPicture geometry={geometry} asPicture={marks !== null} />
          {compared && <BeforePicture geometry={geometry} before={before.plan} share={divider} />}
          {sheetCompared && <SheetBeside geometry={geometry} share={divider} />}
          {thin && <ThinPlaces geometry={geometry} thin={thin} />}
          <svg
            className="plan-surface"
            data-testid="plan-surface"
            onPointerMove={onMove}
            onPointerLeave={() => set({ cursor: null })}
            onPointerDown={(event) => {
              const free = zoom.factor !== 1 && !drawn;
              if (free || event.button === 1) panning.current = { x: event.clientX, y: event.clientY };
            }}
            onPointerUp={() => (panning.current = null)}
            onWheel={onWheel}
            onDoubleClick={() => {
              if (!drawn) setZoom(WHOLE);
            }}
          >
            {gridMm > 0 && <GridLines geometry={geometry} everyMm={gridMm} />}
            {station !== "picture" && !atSource && (
              <LineTool
                line={lineInMm(line, plan.head.size_mm)}
                toPx={toPx}
                toMm={spotAt}
                onMove={(moved) => {
                  const share = (spot: Spot) => ({ x: clampShare(spot.x / width), y: clampShare(spot.y / depth) });
                  moveLine({ start: share(moved.start), end: share(moved.end) });
                }}
              />
            )}
            {marks?.(geometry)}
            {stock && revision !== null && <RouterPlan pieceId={pieceId} revision={revision} stock={stock} geometry={geometry} />}
            {drawn}
            {compared && <Divider geometry={geometry} share={divider} before="before" after="after" />}
            {sheetCompared && (
              <Divider geometry={geometry} share={divider} before={SHEET_WORDS[beside].short} after={SHEET_WORDS[sheetLook].short} />
            )}
            {cursor && !drawn && <Crosshair {...toPx(cursor)} />}
            <Rulers width={size.width} height={size.height} left={left} bottom={bottom} scale={scale} cursor={cursor} />
          </svg>
          <PlanProgress pieceId={pieceId} />
          {thin && <ThinLegend />}
          {stock && revision !== null && <RouterLegend pieceId={pieceId} revision={revision} />}
          {onSheet && (sheetLook === "difference" || (sheetCompared && beside === "difference")) && <DifferenceLegend />}
          {onSheet && <SheetLooks />}
          <PlanBar
            trueSize={Math.abs(zoom.factor - trueFactor) < 1e-6}
            onTrueSize={() => setZoom({ factor: trueFactor, x: 0, y: 0 })}
            onFit={() => setZoom(WHOLE)}
            comparable={station === "picture" && before.comparable}
          />
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

function PlanPicture({ geometry, asPicture }: { geometry: PlanGeometry; asPicture: boolean }) {
  const plan = usePlan();
  const light = useBenchStore((state) => state.light);
  const atSource = useLook().atSource;
  const lamp = useBenchStore((state) => state.station) === "picture" || atSource || asPicture ? null : light;
  const transmission = useLook().transmission;
  const look = useBenchStore((state) => state.sheetLook);
  const pixels = useMemo(() => {
    if (!plan) return null;
    if (transmission && plan.grid.window) return paintSheet(plan.grid, look, transmission);
    return lamp ? paintRelief(plan.grid, plan.head.pitch_mm, lamp) : paintTones(plan.grid);
  }, [plan, lamp, transmission, look]);
  if (!plan) return null;
  return <PlanCanvas pixels={pixels} {...plan.grid} pitch={plan.head.pitch_mm} geometry={geometry} testId="plan-picture" shadow />;
}

/** The other look on the sheet of a lithophane, left of the divider. */
function SheetBeside({ geometry, share }: { geometry: PlanGeometry; share: number }) {
  const plan = usePlan();
  const transmission = useLook().transmission;
  const look = useBenchStore((state) => state.sheetBeside);
  const pixels = useMemo(() => (plan?.grid.window && transmission && look ? paintSheet(plan.grid, look, transmission) : null), [plan, transmission, look]);
  if (!plan || !pixels) return null;
  return <PlanCanvas pixels={pixels} {...plan.grid} pitch={plan.head.pitch_mm} geometry={geometry} testId="plan-beside" leftShare={share} />;
}

function BeforePicture({ geometry, before, share }: { geometry: PlanGeometry; before: Plan | null; share: number }) {
  const pixels = useMemo(() => before && paintTones(before.grid), [before]);
  if (!before) return null;
  return <PlanCanvas pixels={pixels} {...before.grid} pitch={before.head.pitch_mm} geometry={geometry} testId="plan-before" leftShare={share} />;
}

function ThinPlaces({ geometry, thin }: { geometry: PlanGeometry; thin: ThinMap }) {
  const pixels = useMemo(() => paintThin(thin), [thin]);
  return <PlanCanvas pixels={pixels} rows={thin.rows} columns={thin.columns} geometry={geometry} testId="plan-thin" />;
}

function DifferenceLegend() {
  return (
    <div className="plan-legend" role="note">
      <span>
        <i style={{ background: "rgb(196 120 28)" }} /> brighter than wanted
      </span>
      <span>
        <i style={{ background: "rgb(44 92 150)" }} /> darker than wanted
      </span>
    </div>
  );
}

function ThinLegend() {
  return (
    <div className="plan-legend" role="note">
      <span>
        <i style={{ background: "rgb(190 50 20)" }} /> strokes too thin
      </span>
      <span>
        <i style={{ background: "rgb(60 60 190)" }} /> gaps too narrow
      </span>
      <span className="quiet-label">paler: nearly wide enough</span>
    </div>
  );
}
