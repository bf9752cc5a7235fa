import { useState, type PointerEvent } from "react";
import { can, type PieceView, type SectionCut } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import { alongLine, FIRST_LINE, lineInMm, spotOnLine } from "../spot";
import { lengthWithUnit } from "../../state/units";
import { rulerTicks } from "../ticks";
import { useSize } from "../useSize";
import { Readout } from "./Readout";
import { FoldButton } from "./FoldButton";
import { SectionSwitch } from "./SectionSwitch";
import { useCarvedSection } from "./useCarvedSection";
import { useSection } from "./useSection";
import { useSectionHeight } from "./useSectionHeight";
import { useLook, usePlan, useSameFrame } from "../../state/previews";

const LEFT_PX = 44;
const RIGHT_PX = 16;
const TOP_PX = 30;
const BOTTOM_PX = 22;
const STRETCHES = [1, 2, 5, 10, 20];
const NEAR_MM = 1.5;

/** The profile along the section line: what was asked and what is made, in mm both ways. */
export function SectionView({ piece }: { piece: PieceView }) {
  const cut = useSection(piece.id, piece.revision);
  const carved = useCarvedSection(piece.id, piece.revision);
  const plan = usePlan();
  const unit = useBenchStore((state) => state.unit);
  const cursor = useBenchStore((state) => state.cursor);
  const set = useBenchStore((state) => state.set);
  const share = useBenchStore((state) => state.line) ?? FIRST_LINE;
  const sameFrame = useSameFrame();
  const [frame, size] = useSize<HTMLDivElement>();
  const [stretch, setStretch] = useState(1);
  const lit = useLook().transmission !== null;
  const tilted = useBenchStore((state) => state.tiltDeg !== 0);
  const { folded, setFolded, ...edge } = useSectionHeight();
  if (!plan) return <div ref={frame} className="pane pane-section" role="group" aria-label="Section" />;

  const size_mm = cut?.size_mm ?? plan.head.size_mm;
  const line = lineInMm(share, size_mm);
  const length = cut?.length_mm ?? 1;
  const sunk = carved?.asked ?? null;
  const { low, high } = sunk ? heightsOf([sunk], 0) : heightsOf(cut?.made ?? [], tilted ? 0 : size_mm[2]);
  const tallest = high - low;
  const roomX = size.width - LEFT_PX - RIGHT_PX;
  const roomY = size.height - TOP_PX - BOTTOM_PX;
  const scale = Math.max(1e-6, Math.min(roomX / length, roomY / (tallest * stretch)));
  const left = LEFT_PX + (roomX - length * scale) / 2;
  const base = TOP_PX + (roomY + tallest * stretch * scale) / 2;
  const x = (along: number) => left + along * scale;
  const y = (up: number) => base - (up - low) * scale * stretch;

  const marker = cursor && sameFrame ? alongLine(line, cursor) : null;
  const onLine = marker && marker.beside <= NEAR_MM && marker.along >= 0 && marker.along <= length;
  const onMove = (event: PointerEvent) => {
    const box = frame.current?.getBoundingClientRect();
    const along = (event.clientX - (box?.left ?? 0) - left) / scale;
    if (sameFrame) set({ cursor: along >= 0 && along <= length ? spotOnLine(line, along) : null });
  };

  return (
    <div ref={frame} className={folded ? "pane pane-section is-folded" : "pane pane-section"} role="group" aria-label="Section">
      {!folded && <div className="section-edge" {...edge} />}
      <span className="pane-name">
        Section, {lengthWithUnit(length, unit)} long{tilted && ", leaning"}
      </span>
      <div className="section-tools">
        <div className="readout">
          <Readout levels={levelsOf(piece)} />
        </div>
        <SectionSwitch />
        {carved && (
          <span className="section-words">
            <i style={{ background: "#2c6f62" }} /> asked <i style={{ background: "#b07a1e" }} /> finest tip <i style={{ background: "#9c3524" }} /> cut
          </span>
        )}
        <button
          type="button"
          className="icon-button py-0"
          title="How much heights are stretched in this drawing"
          onClick={() => setStretch(STRETCHES[(STRETCHES.indexOf(stretch) + 1) % STRETCHES.length] ?? 1)}
        >
          {lit ? "walls" : "heights"} {stretch === 1 ? "true" : `× ${stretch}`}
        </button>
        <FoldButton folded={folded} setFolded={setFolded} />
      </div>
      {cut && size.width > 0 && !folded && (
        <svg
          className="section-surface"
          data-testid="section-surface"
          onPointerMove={onMove}
          onPointerLeave={() => set({ cursor: null })}
        >
          <clipPath id="section-clip">
            <rect x={left - 1} y={0} width={length * scale + 2} height={size.height} />
          </clipPath>
          <Scales length={length} low={low} tallest={high} scale={scale} stretch={stretch} left={left} base={base} />
          <g clipPath="url(#section-clip)">
            <path
              data-testid="section-made"
              d={sunk && carved ? woodPath(carved.cut, x, y) : cut.made.map((outline) => pathOf(outline, x, y, true)).join(" ")}
              fill="#d9ccb2"
              fillRule="evenodd"
              stroke="#5b5e5c"
              strokeWidth={1}
            />
            <path
              data-testid="section-asked"
              d={askedPath(sunk ?? cut.asked, x, y)}
              fill="none"
              stroke="#2c6f62"
              strokeWidth={1.6}
            />
            {carved && (
              <>
                <path data-testid="section-offset" d={askedPath(carved.offset, x, y)} fill="none" stroke="#b07a1e" strokeWidth={1} strokeDasharray="4 3" />
                <path data-testid="section-cut" d={askedPath(carved.cut, x, y)} fill="none" stroke="#9c3524" strokeWidth={1.2} />
              </>
            )}
          </g>
          {onLine && (
            <g pointerEvents="none" stroke="#9c3524">
              <path d={`M${x(marker.along)} ${TOP_PX - 6} V${base}`} strokeDasharray="3 3" />
            </g>
          )}
        </svg>
      )}
    </div>
  );
}

/** How many tones the source of a piece with heights can hold; null where tones are no heights. */
function levelsOf(piece: PieceView): number | null {
  if (!can(piece, "heights") || !("picture" in piece.document)) return null;
  return 2 ** Math.min(16, piece.document.picture.bit_depth);
}

/** The lowest and the highest point that the section has to show; `least` is shown in any case. */
function heightsOf(outlines: readonly SectionCut["asked"][], least: number): { low: number; high: number } {
  let [low, high] = [0, least];
  for (const outline of outlines) {
    for (const [, up] of outline) {
      if (up === null) continue;
      low = Math.min(low, up);
      high = Math.max(high, up);
    }
  }
  return { low, high: Math.max(high, low + 1e-3) };
}

interface ScaleProps {
  length: number;
  low: number;
  tallest: number;
  scale: number;
  stretch: number;
  left: number;
  base: number;
}

function Scales({ length, low, tallest, scale, stretch, left, base }: ScaleProps) {
  const unit = useBenchStore((state) => state.unit);
  const across = rulerTicks(0, length, scale, unit);
  const up = rulerTicks(low, low < 0 ? tallest : tallest * 1.15, scale * stretch * 1.9, unit);
  const y = (mm: number) => base - (mm - low) * scale * stretch;
  return (
    <g aria-hidden="true">
      {up
        .filter((tick) => tick.label)
        .map(({ mm, label }) => (
          <g key={mm}>
            <path d={`M${left} ${y(mm)} h${length * scale}`} stroke="#e6dfd1" />
            <text x={left - 6} y={y(mm) + 4} textAnchor="end">
              {label}
            </text>
          </g>
        ))}
      {across.map(({ mm, label }) => (
        <g key={mm}>
          <path d={`M${left + mm * scale} ${base} v${label ? 6 : 3}`} stroke="#5b5e5c" />
          {label && (
            <text x={left + mm * scale} y={base + 16} textAnchor="middle">
              {label}
            </text>
          )}
        </g>
      ))}
    </g>
  );
}

function pathOf(
  points: readonly (readonly [number, number])[],
  x: (mm: number) => number,
  y: (mm: number) => number,
  closed: boolean,
): string {
  const steps = points.map(([along, up], i) => `${i ? "L" : "M"}${x(along).toFixed(2)} ${y(up).toFixed(2)}`);
  return steps.join("") + (closed ? "Z" : "");
}

/** The wood under a cut, down to the back of the piece. */
function woodPath(cut: SectionCut["asked"], x: (mm: number) => number, y: (mm: number) => number): string {
  const first = cut[0]?.[0] ?? 0;
  const last = cut.at(-1)?.[0] ?? 0;
  return `${askedPath(cut, x, y)}L${x(last).toFixed(2)} ${y(0).toFixed(2)}L${x(first).toFixed(2)} ${y(0).toFixed(2)}Z`;
}

function askedPath(points: SectionCut["asked"], x: (mm: number) => number, y: (mm: number) => number): string {
  let pen = false;
  let path = "";
  for (const [along, up] of points) {
    if (up === null) pen = false;
    else {
      path += `${pen ? "L" : "M"}${x(along).toFixed(2)} ${y(up).toFixed(2)}`;
      pen = true;
    }
  }
  return path;
}
