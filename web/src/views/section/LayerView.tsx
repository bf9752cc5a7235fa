import { useEffect, useLayoutEffect, useRef, useState, type PointerEvent } from "react";
import type { LayersView, PieceView } from "../../api/client";
import type { Layer } from "../../api/printing";
import { useBenchStore } from "../../state/benchStore";
import { formatLength, lengthWithUnit, type Unit } from "../../state/units";
import { useLayer } from "../../state/useLayer";
import { useSize } from "../useSize";
import { drawLayer, wholeLayer, type LayerEye } from "./drawLayer";
import { wallAt } from "./layerLines";

const CLOSER = 1.35;
const NEAR_PX = 14;
const LEAST_SCALE = 0.2;
const MOST_SCALE = 400;

/** The layer of a piece that is looked at, from above and to scale, and a slider through all of them. */
export function LayerView({ piece }: { piece: PieceView }) {
  const { all, layer, refusal } = useLayer(piece.id, piece.revision);
  return (
    <div className="layer-view" data-testid="layer-view" aria-busy={!layer && !refusal}>
      {layer ? <LayerCanvas layer={layer} /> : <div className="pane-message text-body">{refusal ?? "Cutting into layers …"}</div>}
      {all && <LayerSlider all={all} />}
    </div>
  );
}

function LayerCanvas({ layer }: { layer: Layer }) {
  const [frame, size] = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const closeUp = useBenchStore((state) => state.closeUp);
  const set = useBenchStore((state) => state.set);
  const unit = useBenchStore((state) => state.unit);
  const [spot, setSpot] = useState<{ x: number; y: number } | null>(null);
  const { width, height } = size;
  const eye = closeUp ?? wholeLayer(layer.head.size_mm, width, height);
  useLayoutEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!context || width === 0 || height === 0) return;
    drawLayer(context, layer, eye, width, height);
    canvas.current?.setAttribute("data-layer", String(layer.head.layer));
  }, [layer, eye, width, height]);
  const zoom = (times: number, at: { x: number; y: number } = eye) => {
    const scale = Math.min(MOST_SCALE, Math.max(LEAST_SCALE, eye.scale * times));
    const share = 1 - eye.scale / scale;
    set({ closeUp: { x: eye.x + (at.x - eye.x) * share, y: eye.y + (at.y - eye.y) * share, scale } });
  };
  useWheel(frame, (times, event) => zoom(times, overPlate(event, frame.current, eye)));
  const onMove = (event: PointerEvent<HTMLDivElement>) => {
    if (event.buttons & 1) {
      set({ closeUp: { ...eye, x: eye.x - event.movementX / eye.scale, y: eye.y + event.movementY / eye.scale } });
      return;
    }
    setSpot(overPlate(event, frame.current, eye));
  };
  const wall = spot && wallAt(layer, spot.x, spot.y, NEAR_PX / eye.scale);
  return (
    <div ref={frame} className="layer-surface" onPointerMove={onMove} onPointerLeave={() => setSpot(null)} onDoubleClick={() => set({ closeUp: null })}>
      <canvas ref={canvas} width={Math.max(1, Math.round(width))} height={Math.max(1, Math.round(height))} role="img" aria-label={`Layer ${layer.head.layer} from above`} />
      <div className="layer-tools">
        <button type="button" className="icon-button" aria-label="Closer" title="Closer" onClick={() => zoom(CLOSER)}>
          <i className="bi bi-zoom-in" aria-hidden="true" />
        </button>
        <button type="button" className="icon-button" aria-label="Further" title="Further" onClick={() => zoom(1 / CLOSER)}>
          <i className="bi bi-zoom-out" aria-hidden="true" />
        </button>
        <button type="button" className="icon-button" aria-label="All of the layer" title="All of it" onClick={() => set({ closeUp: null })}>
          <i className="bi bi-arrows-angle-contract" aria-hidden="true" />
        </button>
      </div>
      <span className="layer-words" role="status" data-testid="layer-wall">
        {wall ? wallWords(wall, unit) : layerWords(layer, eye.scale)}
      </span>
    </div>
  );
}

/** The wheel brings closer; React's own listener could not keep the page from scrolling. */
function useWheel(frame: React.RefObject<HTMLDivElement | null>, onWheel: (times: number, event: WheelEvent) => void): void {
  const latest = useRef(onWheel);
  useEffect(() => {
    latest.current = onWheel;
  });
  useEffect(() => {
    const element = frame.current;
    const turn = (event: WheelEvent) => {
      event.preventDefault();
      latest.current(Math.exp(-event.deltaY / 400), event);
    };
    element?.addEventListener("wheel", turn, { passive: false });
    return () => element?.removeEventListener("wheel", turn);
  }, [frame]);
}

function overPlate(event: { clientX: number; clientY: number }, frame: HTMLDivElement | null, eye: LayerEye): { x: number; y: number } {
  const box = frame?.getBoundingClientRect();
  if (!box) return { x: eye.x, y: eye.y };
  return {
    x: eye.x + (event.clientX - box.left - box.width / 2) / eye.scale,
    y: eye.y - (event.clientY - box.top - box.height / 2) / eye.scale,
  };
}

/** What a layer covers, what of it hangs, and what support stands beside it. */
function layerWords({ head }: Layer, scale: number): string {
  const told = (mm2: number) => `${Math.round(mm2).toLocaleString("en")} mm²`;
  const hangs = head.overhang_mm2 >= 0.5 ? `, ${told(head.overhang_mm2)} hang` : "";
  const support = head.support_mm2 >= 0.5 ? `, support on ${told(head.support_mm2)}` : "";
  return `${told(head.area_mm2)}${hangs}${support} · 1 mm is ${scale.toFixed(1)} px`;
}

function wallWords({ mm, count, rest }: { mm: number; count: number; rest: number }, unit: Unit): string {
  const wide = `wall ${lengthWithUnit(Math.round(mm * 100) / 100, unit)}`;
  if (count === 0) return `${wide}: less than one line`;
  const lines = `${count} ${count === 1 ? "line" : "lines"}`;
  return rest > 0 ? `${wide}: ${lines}, and ${rest.toFixed(1)} of one hollow` : `${wide}: ${lines}, no gap`;
}

/** Through all layers; those that have something to look after are marked beside it. */
function LayerSlider({ all }: { all: LayersView }) {
  const set = useBenchStore((state) => state.set);
  const unit = useBenchStore((state) => state.unit);
  const count = all.report.layers;
  const layer = Math.min(Math.max(1, useBenchStore((state) => state.layer)), count);
  const [from, to] = [all.bounds_mm[layer - 1] ?? 0, all.bounds_mm[layer] ?? 0];
  const told = (mm: number) => formatLength(Math.round(mm * 100) / 100, unit);
  return (
    <div className="layer-slider">
      <div className="layer-marks" aria-hidden="true">
        {marksOf(all).map(({ first, last, kind }, at) => (
          <i key={at} className={kind} style={{ left: `${((first - 1) / count) * 100}%`, width: `${Math.max(0.4, ((last - first + 1) / count) * 100)}%` }} />
        ))}
      </div>
      <input
        type="range"
        aria-label="Layer"
        aria-valuetext={`Layer ${layer} of ${count}, ${told(from)} to ${told(to)} ${unit}`}
        min={1}
        max={count}
        step={1}
        value={layer}
        onChange={(event) => set({ layer: Number(event.currentTarget.value) })}
      />
      <span className="layer-number" data-testid="layer-number">
        layer <b>{layer.toLocaleString("en")}</b> of {count.toLocaleString("en")}, {told(from)}–{told(to)} {unit}
      </span>
    </div>
  );
}

interface Mark {
  first: number;
  last: number;
  kind: "island" | "thin" | "awkward" | "bridge";
}

function marksOf({ report }: LayersView): Mark[] {
  return [
    ...report.awkward_walls.map(({ layers: [first, last] }): Mark => ({ first, last, kind: "awkward" })),
    ...report.thin_spots.map(({ layers: [first, last] }): Mark => ({ first, last, kind: "thin" })),
    ...report.bridges.map(({ layer }): Mark => ({ first: layer, last: layer, kind: "bridge" })),
    ...report.islands.map(({ layer }): Mark => ({ first: layer, last: layer, kind: "island" })),
  ];
}
