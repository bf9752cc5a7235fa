interface Known {
  name: string;
  width: number;
  height: number;
}

/** Things of which everybody knows the size, mm. */
const KNOWN: readonly Known[] = [
  { name: "a matchstick, 43 mm", width: 43, height: 2.4 },
  { name: "a bank card, 85.6 mm wide", width: 85.6, height: 54 },
  { name: "a sheet of A4, 210 mm wide", width: 210, height: 297 },
  { name: "a door, 2 m tall", width: 800, height: 2000 },
];

export interface Beside extends Known {
  /** Width and height of a drawing that holds both side by side, mm. */
  span: number;
  tall: number;
}

/** The known thing whose larger side is nearest to that of a box, and how large a drawing of both is. */
export function besides(width: number, height: number): Beside {
  const apart = (known: Known) => Math.abs(Math.log(Math.max(known.width, known.height) / Math.max(width, height, 1e-6)));
  const known = KNOWN.reduce((best, each) => (apart(each) < apart(best) ? each : best));
  return { ...known, span: known.width + 6 + width + 1, tall: Math.max(known.height, height) + 1 };
}
