/** Minutes in words, as exactly as they matter. */
export function timeTold(minutes: number): string {
  if (minutes < 1) return `${Math.round(60 * minutes)} s`;
  const whole = Math.round(minutes);
  return whole < 90 ? `${minutes < 10 ? minutes.toFixed(1) : whole} min` : `${Math.floor(whole / 60)} h ${whole % 60} min`;
}
