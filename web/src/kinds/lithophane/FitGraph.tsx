import type { MaterialFit, Readings } from "../../api/client";

const WIDTH = 330;
const HEIGHT = 130;
const LEFT = 34;
const BELOW = 20;
const PLACES = 48;

/** Readings over thickness, brightness in powers of ten, and the line that fits them; it bends where light is read in the dark. */
export function FitGraph({ readings, fit }: { readings: Readings; fit: MaterialFit }) {
  const { thickness_mm, brightness } = readings;
  const at = thickness_mm.findIndex((mm) => mm > 0);
  const share = (mm: number) => Math.exp(-fit.attenuation_per_mm * mm) + fit.dark_offset;
  const whole = (brightness[at] ?? 1) / (1 + (fit.residuals[at] ?? 0)) / share(thickness_mm[at] ?? 0);
  const most = Math.max(...thickness_mm);
  const logs = brightness.map((value) => Math.log10(value));
  const [low, high] = [Math.floor(Math.min(...logs)), Math.ceil(Math.max(...logs))];
  const x = (mm: number) => LEFT + (mm / most) * (WIDTH - LEFT - 8);
  const y = (log: number) => 8 + ((high - log) / Math.max(1, high - low)) * (HEIGHT - BELOW - 8);
  const line = (mm: number) => Math.log10(Math.max(whole * share(mm), 10 ** low));
  const places = Array.from({ length: PLACES + 1 }, (_, i) => (most * i) / PLACES);
  const decades = Array.from({ length: high - low + 1 }, (_, i) => low + i);
  return (
    <svg className="fit-graph" viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label="Readings and the fitted line">
      {decades.map((log) => (
        <g key={log}>
          <path d={`M${LEFT} ${y(log)}H${WIDTH - 8}`} stroke="#d9ccb2" />
          <text x={LEFT - 5} y={y(log) + 3} textAnchor="end">
            {log >= 0 ? 10 ** log : (10 ** log).toFixed(-log)}
          </text>
        </g>
      ))}
      <text x={WIDTH - 8} y={HEIGHT - 4} textAnchor="end">
        {most.toFixed(1)} mm
      </text>
      <text x={LEFT} y={HEIGHT - 4}>
        0
      </text>
      <path d={`M${places.map((mm) => `${x(mm)} ${y(line(mm))}`).join("L")}`} stroke="#2c6f62" strokeWidth={2} fill="none" />
      {thickness_mm.map((mm, i) => (
        <circle key={i} cx={x(mm)} cy={y(logs[i] ?? 0)} r={3.5} fill="#fbf8f2" stroke="#2a2d2e" strokeWidth={1.4} />
      ))}
    </svg>
  );
}
