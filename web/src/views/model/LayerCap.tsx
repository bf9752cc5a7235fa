import { useEffect, useMemo } from "react";
import { useThree } from "@react-three/fiber";
import { BufferAttribute, DoubleSide, ShapeGeometry, ShapePath, Vector3 } from "three";
import type { Layer } from "../../api/printing";

const HAIR = 0.02;

/** What a layer covers, laid on the model where it is cut. */
export function LayerCap({ layer, colour }: { layer: Layer; colour: string }) {
  const geometry = useMemo(() => capOf(layer), [layer]);
  const invalidate = useThree((state) => state.invalidate);
  useEffect(() => {
    invalidate();
    return () => geometry.dispose();
  }, [geometry, invalidate]);
  return (
    <mesh geometry={geometry} raycast={() => null}>
      <meshLambertMaterial color={colour} emissive={colour} emissiveIntensity={0.28} side={DoubleSide} />
    </mesh>
  );
}

function capOf({ outline, head }: Layer): ShapeGeometry {
  const path = new ShapePath();
  outline.starts.forEach((start, ring) => {
    const end = outline.starts[ring + 1] ?? outline.points.length / 2;
    for (let at = start; at < end; at++) {
      const [x, y] = [outline.points[2 * at] ?? 0, outline.points[2 * at + 1] ?? 0];
      if (at === start) path.moveTo(x, y);
      else path.lineTo(x, y);
    }
    path.currentPath?.closePath();
  });
  // Outlines turn left about material.
  const geometry = new ShapeGeometry(path.toShapes());
  const flat = geometry.getAttribute("position");
  const [xAxis, yAxis] = [new Vector3(...head.x_axis), new Vector3(...head.y_axis)];
  const up = new Vector3().crossVectors(xAxis, yAxis);
  const origin = new Vector3(...head.origin_mm).addScaledVector(up, -HAIR);
  const places = new Float32Array(3 * flat.count);
  const normals = new Float32Array(3 * flat.count);
  const place = new Vector3();
  for (let at = 0; at < flat.count; at++) {
    place.copy(origin).addScaledVector(xAxis, flat.getX(at)).addScaledVector(yAxis, flat.getY(at)).toArray(places, 3 * at);
    up.toArray(normals, 3 * at);
  }
  geometry.setAttribute("position", new BufferAttribute(places, 3));
  geometry.setAttribute("normal", new BufferAttribute(normals, 3));
  return geometry;
}
