import type { BufferGeometry } from "three";
import { Vector3 } from "three";
import type { Printing } from "../../api/client";
import type { Layer } from "../../api/printing";

/** How a piece is shown as it is printed. */
export interface PrintLook {
  printing: Printing | null;
  /** The layer above which nothing is drawn; null for all of it. */
  cutAbove: Layer | null;
}

/** The direction of the piece that points up when it is printed. */
export function upOf(printing: Printing | null): Vector3 {
  const [x, y, z] = printing?.down ?? [0, 0, -1];
  return new Vector3(-x, -y, -z);
}

/** How far along a direction the lowest vertex lies. */
export function lowestAlong(geometry: BufferGeometry, up: Vector3): number {
  const places = geometry.getAttribute("position");
  let low = Infinity;
  for (let at = 0; at < places.count; at++) low = Math.min(low, up.x * places.getX(at) + up.y * places.getY(at) + up.z * places.getZ(at));
  return Number.isFinite(low) ? low : 0;
}
