import { useMemo } from "react";
import { useBenchStore } from "../../../state/benchStore";
import { histogramPath } from "../../../ui/histogram";
import { formatLength } from "../../../state/units";
import { sampleAt } from "../../../views/spot";
import { meanHeights, ruleLine, type Rule } from "./ruleCurve";
import { usePlan } from "../../../state/previews";

const WIDTH = 214;
const HEIGHT = 96;
const LEFT = 40;

/** The rule as a line over the histogram: tones from black to white, heights upwards; the spot under the cursor on it. */
export function RuleGraph({ rule, counts }: { rule: Rule; counts: Uint32Array | undefined }) {
  const plan = usePlan();
  const cursor = useBenchStore((state) => state.cursor);
  const unit = useBenchStore((state) => state.unit);
  const line = useMemo(() => ruleLine(rule) ?? (plan ? meanHeights(plan.grid) : []), [rule, plan]);
  const tallest = Math.max(1e-6, ...line.map(([, mm]) => mm), rule.kind === "steps" ? 0 : rule.relief_mm);
  const sample = plan && cursor ? sampleAt(plan.grid, plan.head, cursor) : null;
  const x = (tone: number) => LEFT + tone * WIDTH;
  const y = (mm: number) => HEIGHT * (1 - mm / tallest);
  return (
    <svg
      className="tone-heights"
      viewBox={`0 -8 ${LEFT + WIDTH + 6} ${HEIGHT + 30}`}
      role="img"
      aria-label="Heights over tones"
      data-testid="rule-graph"
    >
      <defs>
        <linearGradient id="rule-tones">
          <stop offset="0" stopColor="#000" />
          <stop offset="1" stopColor="#fff" />
        </linearGradient>
      </defs>
      <rect x={LEFT} width={WIDTH} height={HEIGHT} fill="#f1ece2" />
      {counts && <path transform={`translate(${LEFT} 0)`} d={histogramPath(counts, WIDTH, HEIGHT)} fill="#d9ccb2" />}
      {[0, 0.5, 1].map((share) => (
        <g key={share}>
          <path d={`M${LEFT} ${y(share * tallest)}h${WIDTH}`} stroke="#cfc6b5" strokeWidth={0.6} strokeDasharray="2 3" />
          <text x={LEFT - 4} y={y(share * tallest) + 4} textAnchor="end">
            {formatLength(Math.round(share * tallest * 100) / 100, unit)}
          </text>
        </g>
      ))}
      <rect x={LEFT} y={HEIGHT + 5} width={WIDTH} height={7} fill="url(#rule-tones)" stroke="#cfc6b5" strokeWidth={0.5} />
      <path
        d={line.map(([tone, mm], at) => `${at ? "L" : "M"}${x(tone).toFixed(1)} ${y(mm).toFixed(1)}`).join("")}
        fill="none"
        stroke="#2c6f62"
        strokeWidth={2}
      />
      {sample && !Number.isNaN(sample.height) && (
        <circle cx={x(sample.tone)} cy={y(Math.min(tallest, sample.height))} r={3.5} fill="#9c3524" />
      )}
    </svg>
  );
}
