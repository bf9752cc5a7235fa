import { MM_PER_INCH, type Unit } from "../state/units";

export interface Tick {
  mm: number;
  /** Empty for the small ones between. */
  label: string;
}

const NICE = [1, 2, 5];
const LEAST_PX_BETWEEN_LABELS = 52;

/** Ruler ticks from `from` to `to` mm, labelled at round numbers of the unit and at least 52 pixels apart. */
export function rulerTicks(from: number, to: number, pxPerMm: number, unit: Unit): Tick[] {
  const mmPerUnit = unit === "mm" ? 1 : MM_PER_INCH;
  const least = LEAST_PX_BETWEEN_LABELS / (pxPerMm * mmPerUnit);
  const decade = 10 ** Math.floor(Math.log10(least));
  const nice = NICE.find((factor) => factor * decade >= least) ?? 10;
  const step = nice * decade;
  const parts = nice === 2 ? 4 : 5;
  const minor = step / parts;
  const decimals = Math.max(0, -Math.floor(Math.log10(step) + 1e-9));
  const ticks: Tick[] = [];
  for (let i = Math.ceil(from / mmPerUnit / minor - 1e-9); i * minor * mmPerUnit <= to + 1e-9; i++) {
    ticks.push({ mm: i * minor * mmPerUnit, label: i % parts === 0 ? (i * minor).toFixed(decimals) : "" });
  }
  return ticks;
}
