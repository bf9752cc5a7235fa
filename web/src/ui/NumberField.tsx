import { MeasureField, type MeasureProps } from "./MeasureField";

interface Props extends MeasureProps {
  /** Shown behind the number. */
  unit: string;
  /** A share of 1, shown in per cent. */
  share?: boolean;
  whole?: boolean;
}

/** A plain number, a share, a tone, an angle, a count of pixels. */
export function NumberField({ unit, share, whole, ...props }: Props) {
  const factor = share ? 100 : 1;
  const behind = share ? " %" : unit && ` ${unit}`;
  const show = (value: number) => `${trimmed(value * factor)}${behind}`;
  const read = (text: string) => {
    const match = /^(-?[\d.,]+)\s*(?:%|°|px|×|mm²|mm|s)?$/.exec(text.trim());
    const value = match ? Number((match[1] ?? "").replace(",", ".")) / factor : Number.NaN;
    if (!Number.isFinite(value)) return null;
    return whole ? Math.round(value) : value;
  };
  return <MeasureField {...props} show={show} read={read} examples={factor === 100 ? "35 %" : "12.5"} />;
}

function trimmed(value: number): string {
  return String(Math.round(value * 1000) / 1000);
}
