import { useMemo } from "react";
import { useBenchStore } from "../../../state/benchStore";
import { formatLength } from "../../../state/units";
import { WorkCard } from "../../../ui/WorkCard";
import { sampleAt } from "../../../views/spot";
import { heightOn, meanHeights, ruleLine } from "../height/ruleCurve";
import type { StationProps } from "../../common/stationProps";
import { histogram, histogramPath } from "../../../ui/histogram";
import { usePlan } from "../../../state/previews";

const WIDTH = 190;
const HEIGHT = 110;
const LEFT = 38;
const MARKS = [0, 0.25, 0.5, 0.75, 1];

/** How much of the picture has which tone, with the height that each tone gets; the tone under the cursor is marked. */
export function HistogramCard({ document }: Pick<StationProps, "document">) {
  const plan = usePlan();
  const cursor = useBenchStore((state) => state.cursor);
  const unit = useBenchStore((state) => state.unit);
  const path = useMemo(() => plan && histogramPath(histogram(plan.grid), HEIGHT, WIDTH), [plan]);
  const { rule } = document.height;
  const line = useMemo(() => ruleLine(rule) ?? (plan ? meanHeights(plan.grid) : []), [rule, plan]);
  if (!plan || !path) return null;
  const heightOf = (tone: number) => heightOn(line, tone);
  const sample = cursor ? sampleAt(plan.grid, plan.head, cursor) : null;
  const y = (tone: number) => (1 - tone) * HEIGHT;
  return (
    <WorkCard title="Tones and heights">
      <svg className="tone-heights" viewBox={`0 -8 ${LEFT + WIDTH + 44} ${HEIGHT + 14}`} role="img" aria-label="Tones and their heights">
        <defs>
          <linearGradient id="tone-ramp" x1="0" y1="1" x2="0" y2="0">
            <stop offset="0" stopColor="#000" />
            <stop offset="1" stopColor="#fff" />
          </linearGradient>
        </defs>
        <rect x={LEFT - 8} width={6} height={HEIGHT} fill="url(#tone-ramp)" stroke="#cfc6b5" strokeWidth={0.5} />
        <rect x={LEFT} width={WIDTH} height={HEIGHT} fill="#f1ece2" />
        <g transform={`translate(${LEFT} ${HEIGHT}) rotate(-90)`}>
          <path d={turned(path)} fill="#b9ad97" />
        </g>
        {MARKS.map((tone) => (
          <g key={tone}>
            <path d={`M${LEFT} ${y(tone)}h${WIDTH}`} stroke="#cfc6b5" strokeWidth={0.6} strokeDasharray="2 3" />
            <text x={LEFT - 12} y={y(tone) + 4} textAnchor="end">
              {Math.round(tone * 100)} %
            </text>
            <text x={LEFT + WIDTH + 5} y={y(tone) + 4}>
              {formatLength(round(heightOf(tone)), unit)} {unit}
            </text>
          </g>
        ))}
        {sample && !Number.isNaN(sample.height) && (
          <path d={`M${LEFT - 8} ${y(sample.tone)}h${WIDTH + 12}`} stroke="#9c3524" data-testid="tone-mark" />
        )}
      </svg>
    </WorkCard>
  );
}

/** The outline lies with its base along x; turned upright it has to grow to the right. */
function turned(path: string): string {
  return path.replace(/([ML])(-?[\d.]+) (-?[\d.]+)/g, (_, step: string, x: string, y: string) => `${step}${x} ${WIDTH - Number(y)}`);
}

function round(mm: number): number {
  return Math.round(mm * 100) / 100;
}
