import { useBenchStore, type Spot } from "../../state/benchStore";
import { rulerTicks } from "../ticks";

export const RULER_PX = 24;
const LONG_PX = 9;
const SHORT_PX = 4;

interface Props {
  width: number;
  height: number;
  left: number;
  bottom: number;
  scale: number;
  cursor: Spot | null;
}

/** Rulers along the top and the left side, zero at the piece's lower left corner. */
export function Rulers({ width, height, left, bottom, scale, cursor }: Props) {
  const unit = useBenchStore((state) => state.unit);
  const across = rulerTicks((RULER_PX - left) / scale, (width - left) / scale, scale, unit);
  const up = rulerTicks((bottom - height) / scale, (bottom - RULER_PX) / scale, scale, unit);
  return (
    <g pointerEvents="none" aria-hidden="true">
      <rect width={width} height={RULER_PX} fill="#fbf8f2" />
      <rect width={RULER_PX} height={height} fill="#fbf8f2" />
      <path d={`M${RULER_PX} ${height} V${RULER_PX} H${width}`} stroke="#cfc6b5" fill="none" />
      {across.map(({ mm, label }) => {
        const x = left + mm * scale;
        return (
          <g key={mm}>
            <path d={`M${x} ${RULER_PX} v${label ? -LONG_PX : -SHORT_PX}`} stroke="#5b5e5c" />
            {label && (
              <text x={x + 3} y={11}>
                {label}
              </text>
            )}
          </g>
        );
      })}
      {up.map(({ mm, label }) => {
        const y = bottom - mm * scale;
        return (
          <g key={mm}>
            <path d={`M${RULER_PX} ${y} h${label ? -LONG_PX : -SHORT_PX}`} stroke="#5b5e5c" />
            {label && (
              <text transform={`translate(11 ${y - 3}) rotate(-90)`} x={0} y={0}>
                {label}
              </text>
            )}
          </g>
        );
      })}
      {cursor && (
        <path
          d={`M${left + cursor.x * scale} 0 v${RULER_PX} M0 ${bottom - cursor.y * scale} h${RULER_PX}`}
          stroke="#2c6f62"
          strokeWidth={1.5}
        />
      )}
      <rect width={RULER_PX} height={RULER_PX} fill="#fbf8f2" />
      <text x={4} y={15}>
        {unit}
      </text>
    </g>
  );
}
