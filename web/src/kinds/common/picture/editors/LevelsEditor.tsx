import { useRef, type KeyboardEvent, type PointerEvent } from "react";
import { histogramPath } from "../../../../ui/histogram";
import type { EditorProps } from "./editorProps";
import { useComingIn } from "./useComingIn";

const WIDTH = 256;
const HEIGHT = 80;
const LEAST_APART = 0.01;
const NAMES = { black: "Becomes black", white: "Becomes white" } as const;
type End = keyof typeof NAMES;

/** The tones that come in, with handles for what becomes black and what white. */
export function LevelsEditor(props: EditorProps) {
  const { op, onDrag, onKeep } = props;
  const counts = useComingIn(props);
  const surface = useRef<SVGSVGElement>(null);
  const held = useRef<End | null>(null);
  const ends = { black: Number(op.black), white: Number(op.white) };

  const placed = (end: End, to: number) => {
    const [low, high] = end === "black" ? [0, ends.white - LEAST_APART] : [ends.black + LEAST_APART, 1];
    return { [end]: Math.round(Math.min(high, Math.max(low, to)) * 1000) / 1000 };
  };
  const toneAt = (event: PointerEvent) => {
    const box = surface.current?.getBoundingClientRect();
    return box ? (event.clientX - box.left) / box.width : 0;
  };
  const onKey = (end: End) => (event: KeyboardEvent) => {
    const by = { ArrowLeft: -0.01, ArrowRight: 0.01 }[event.key];
    if (!by) return;
    event.preventDefault();
    onKeep(NAMES[end].toLowerCase(), placed(end, ends[end] + by));
  };
  return (
    <svg ref={surface} className="tone-graph" viewBox={`0 0 ${WIDTH} ${HEIGHT + 12}`}>
      {counts && <path d={histogramPath(counts, WIDTH, HEIGHT)} fill="#b9ad97" />}
      {(["black", "white"] as const).map((end) => (
        <g
          key={end}
          className="tone-handle"
          role="slider"
          tabIndex={0}
          aria-label={`${NAMES[end]}, on the histogram`}
          aria-valuenow={Math.round(ends[end] * 100)}
          aria-valuemin={0}
          aria-valuemax={100}
          transform={`translate(${ends[end] * WIDTH} 0)`}
          onKeyDown={onKey(end)}
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            held.current = end;
          }}
          onPointerMove={(event) => {
            if (held.current === end) onDrag(placed(end, toneAt(event)));
          }}
          onPointerUp={(event) => {
            if (held.current === end) onKeep(NAMES[end].toLowerCase(), placed(end, toneAt(event)));
            held.current = null;
          }}
        >
          <rect x={-8} width={16} height={HEIGHT + 12} fill="transparent" />
          <path d={`M0 0V${HEIGHT}`} stroke="#9c3524" />
          <path d={`M0 ${HEIGHT}l6 11h-12z`} fill={end === "black" ? "#2a2d2e" : "#fbf8f2"} stroke="#2a2d2e" />
        </g>
      ))}
    </svg>
  );
}
