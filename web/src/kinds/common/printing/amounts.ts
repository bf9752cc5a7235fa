/** Minutes as people tell them. */
export function hours(minutes: number): string {
  const whole = Math.round(minutes);
  return whole < 60 ? `${whole} min` : `${Math.floor(whole / 60)} h ${String(whole % 60).padStart(2, "0")} min`;
}

/** What something takes: time, weight, money. */
export function amounts({ minutes, grams, price }: { minutes: number; grams: number; price: number }): string {
  return `${hours(minutes)}, ${grams < 100 ? grams.toFixed(1) : Math.round(grams)} g, ${price.toFixed(2)}`;
}
