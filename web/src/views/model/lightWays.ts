import { Vector3 } from "three";

/** The `at`-th of shares any beginning of which is spread evenly (van der Corput, 1935), in digits of a base. */
function share(at: number, base: number): number {
  let [left, unit, found] = [at + 1, 1, 0];
  while (left > 0) {
    unit /= base;
    found += unit * (left % base);
    left = Math.floor(left / base);
  }
  return found;
}

/** The way to the `at`-th place of a round lamp seen `radiusDeg` wide from its middle out, as long as the way to its middle. */
export function lampWay(middle: Vector3, radiusDeg: number, at: number): Vector3 {
  const aside = Math.sqrt(share(at, 2)) * Math.tan((radiusDeg * Math.PI) / 180) * middle.length();
  const turn = 2 * Math.PI * share(at, 3);
  const one = new Vector3(Math.abs(middle.x) < Math.abs(middle.z) ? 1 : 0, 0, Math.abs(middle.x) < Math.abs(middle.z) ? 0 : 1).cross(middle).normalize();
  const two = middle.clone().normalize().cross(one);
  return middle
    .clone()
    .addScaledVector(one, aside * Math.cos(turn))
    .addScaledVector(two, aside * Math.sin(turn))
    .setLength(middle.length());
}

/** The `at`-th of ways to everywhere around, of length 1. */
export function skyWay(at: number): Vector3 {
  const up = 1 - 2 * share(at, 2);
  const turn = 2 * Math.PI * share(at, 3);
  const level = Math.sqrt(1 - up * up);
  return new Vector3(level * Math.cos(turn), level * Math.sin(turn), up);
}
