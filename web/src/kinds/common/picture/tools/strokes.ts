/** A brush stroke as documents hold it: places in shares of the source with pressure, size in mm of the piece. */
export interface BrushStroke {
  places: readonly (readonly [number, number, number])[];
  size_mm: number;
  hardness: number;
  inside: boolean;
}

/** No document holds more places in one stroke. */
export const MOST_PLACES = 5000;
