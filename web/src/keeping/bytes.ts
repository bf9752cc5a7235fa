const STEPS = ["bytes", "KiB", "MiB", "GiB", "TiB"];

/** A number of bytes as it is read. */
export function bytes(count: number): string {
  let amount = count;
  let step = 0;
  while (amount >= 1024 && step < STEPS.length - 1) {
    amount /= 1024;
    step += 1;
  }
  return `${step === 0 || amount >= 100 ? amount.toFixed(0) : amount.toFixed(1)} ${STEPS[step]}`;
}
