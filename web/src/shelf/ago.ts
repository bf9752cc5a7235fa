const STEPS: [number, Intl.RelativeTimeFormatUnit][] = [
  [60, "minute"],
  [24, "hour"],
  [30, "day"],
  [12, "month"],
  [Infinity, "year"],
];

/** How long ago something was, in words. */
export function ago(then: Date, now: Date): string {
  let amount = (now.getTime() - then.getTime()) / 60_000;
  if (amount < 1) return "just now";
  for (const [size, unit] of STEPS) {
    if (amount < size) return new Intl.RelativeTimeFormat("en", { numeric: "auto" }).format(-Math.floor(amount), unit);
    amount /= size;
  }
  return "long ago";
}
