/** Millimetres, or shares, from the lower left corner of the piece. */
export interface Spot {
  x: number;
  y: number;
}

export type Matrix = readonly [
  readonly [number, number, number],
  readonly [number, number, number],
  readonly [number, number, number],
];

/** Where a projective map takes a spot. */
export function mapped([a, b, c]: Matrix, { x, y }: Spot): Spot {
  const w = c[0] * x + c[1] * y + c[2];
  return { x: (a[0] * x + a[1] * y + a[2]) / w, y: (b[0] * x + b[1] * y + b[2]) / w };
}

export function inverse([[a, b, c], [d, e, f], [g, h, i]]: Matrix): Matrix {
  const det = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  const per = (value: number) => value / det;
  return [
    [per(e * i - f * h), per(c * h - b * i), per(b * f - c * e)],
    [per(f * g - d * i), per(a * i - c * g), per(c * d - a * f)],
    [per(d * h - e * g), per(b * g - a * h), per(a * e - b * d)],
  ];
}
