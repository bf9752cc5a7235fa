export type Unit = "mm" | "in";

export const MM_PER_INCH = 25.4;
const MM_PER: Record<string, number> = { mm: 1, cm: 10, in: MM_PER_INCH, '"': MM_PER_INCH };
const LENGTH = /^(-?)(?:(\d+)\s+(?=\d+\/))?(\d+(?:[.,]\d*)?|[.,]\d+)(?:\/(\d+))?\s*(mm|cm|in|")?$/i;

/** Millimetres from what a person typed ("3.5", "1/8 in", "2 1/4"); a bare number is in `unit`. Null: not a length. */
export function parseLength(text: string, unit: Unit): number | null {
  const match = LENGTH.exec(text.trim());
  if (!match) return null;
  const [, sign, whole, number = "", divisor, given] = match;
  const divided = Number(number.replace(",", ".")) / (divisor === undefined ? 1 : Number(divisor));
  const value = (Number(whole ?? 0) + divided) * (MM_PER[(given ?? unit).toLowerCase()] ?? 1);
  if (!Number.isFinite(value)) return null;
  return sign ? -value : value;
}

/** A length as shown, without trailing zeros: at most 3 decimals in mm, 4 in inches. */
export function formatLength(mm: number, unit: Unit): string {
  const value = unit === "mm" ? mm.toFixed(3) : (mm / MM_PER_INCH).toFixed(4);
  return value.includes(".") ? value.replace(/\.?0+$/, "") : value;
}

/** Like `formatLength`, with its unit. */
export function lengthWithUnit(mm: number, unit: Unit, decimals = unit === "mm" ? 2 : 3): string {
  return `${(unit === "mm" ? mm : mm / MM_PER_INCH).toFixed(decimals)} ${unit}`;
}
