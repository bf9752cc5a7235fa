/** A share in per cent, more exactly where it is small. */
export const percent = (share: number) => `${(100 * share).toLocaleString("en", { maximumFractionDigits: share < 0.1 ? 1 : 0 })} %`;
