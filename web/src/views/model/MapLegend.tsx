import type { MapHead } from "../../api/preview";
import { useBenchStore } from "../../state/benchStore";
import { formatLength, type Unit } from "../../state/units";
import { colourOf, stopsOf } from "./mapColours";

const NAMES = {
  thickness: "Thickness, by the largest sphere inside",
  "thickness-ray": "Thickness, straight through",
  deviation: "Off the asked surface",
  draft: "Lean of walls for a mould",
  "overhang-lying": "Overhang, printed lying",
  "overhang-standing": "Overhang, printed standing",
  left: "Left over the asked surface",
  reach: "Bits cannot reach",
  lines: "Printed lines in walls",
  scars: "Where support touches",
} as const;
/** What the least value is called where it is the one to know; elsewhere that is the largest. */
const LEAST_IS: Partial<Record<MapHead["kind"], string>> = { thickness: "thinnest", "thickness-ray": "thinnest", draft: "steepest", lines: "fewest" };
const WIDTH = 150;
const STEPS = 50;

/** What the colours on the model say. */
export function MapLegend({ head }: { head: MapHead }) {
  const unit = useBenchStore((state) => state.unit);
  const stops = stopsOf(head);
  const from = head.kind === "draft" ? -20 : 0;
  const to = head.unit === "deg" ? 90 : (stops.at(-1)?.[0] ?? 1);
  const word = LEAST_IS[head.kind];
  const extreme = word ? head.least : head.most;
  return (
    <div className="map-legend" data-testid="map-legend">
      <div>{NAMES[head.kind]}</div>
      <svg viewBox={`0 0 ${WIDTH} 10`} width={WIDTH} height={10} aria-hidden="true">
        {Array.from({ length: STEPS }, (_, at) => {
          const [red, green, blue] = colourOf(stops, from + ((at + 0.5) / STEPS) * (to - from));
          const fill = `rgb(${Math.round(255 * red)} ${Math.round(255 * green)} ${Math.round(255 * blue)})`;
          return <rect key={at} x={(at / STEPS) * WIDTH} width={WIDTH / STEPS + 0.5} height={10} fill={fill} />;
        })}
      </svg>
      <div className="d-flex justify-content-between">
        <span>{told(from, head.unit, unit)}</span>
        <span>{told(to, head.unit, unit)}</span>
      </div>
      {head.kind !== "scars" && (
        <div>
          {word ?? "largest"} {told(extreme, head.unit, unit)}
        </div>
      )}
    </div>
  );
}

function told(value: number, measured: string, unit: Unit): string {
  if (measured === "scars") return value > 0 ? "touches" : "nowhere";
  if (measured === "lines") return `${value.toFixed(1)} lines`;
  if (measured !== "mm") return `${Math.round(value)}°`;
  const digits = value < 0.1 ? 4 : 2;
  return `${formatLength(Number(value.toFixed(digits)), unit)} ${unit}`;
}
