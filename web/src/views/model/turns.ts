import { Euler, MathUtils, Quaternion, Vector3 } from "three";
import type { Turn } from "../../state/poseStore";

const DOWN = new Vector3(0, 0, -1);
const DIGITS = 1e6;
const STEP = Math.PI / 36;

/** A rotation as degrees about X, then Y, then Z. */
export function turnOf(rotation: Quaternion): Turn {
  const { x, y, z } = new Euler().setFromQuaternion(rotation, "ZYX");
  const degrees = (radians: number) => Math.round(MathUtils.radToDeg(radians) * DIGITS) / DIGITS + 0;
  return [degrees(x), degrees(y), degrees(z)];
}

/** The shortest turn that lays a face below; `outward` is its normal. */
export function turnDown(outward: Vector3): Turn {
  return turnOf(new Quaternion().setFromUnitVectors(outward.clone().normalize(), DOWN));
}

/** Where a spot lies round an axis through the origin, radians, counter-clockwise seen from the axis' end. */
export function angleOn(axis: Vector3, spot: Vector3): number {
  const across = new Vector3(axis.z, axis.x, axis.y);
  const up = new Vector3().crossVectors(axis, across);
  return Math.atan2(spot.dot(up), spot.dot(across));
}

/** An angle in steps of 5 degrees. */
export function snapped(radians: number): number {
  return Math.round(radians / STEP) * STEP;
}
