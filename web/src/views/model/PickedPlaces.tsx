import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { BufferGeometry, Vector3 } from "three";
import { useBenchStore } from "../../state/benchStore";

/** The places that a measure is taken between, seen through the model. */
export function PickedPlaces({ reach }: { reach: number }) {
  const picked = useBenchStore((state) => state.picked);
  const invalidate = useThree((state) => state.invalidate);
  const line = useMemo(() => new BufferGeometry().setFromPoints(picked.map((place) => new Vector3(...place))), [picked]);
  useEffect(() => () => line.dispose(), [line]);
  useEffect(() => invalidate(), [picked, invalidate]);
  return (
    <>
      {picked.map((place, at) => (
        <mesh key={at} position={[...place]} renderOrder={2} raycast={() => null}>
          <sphereGeometry args={[reach / 130, 16, 12]} />
          <meshBasicMaterial color="#c4432d" depthTest={false} transparent />
        </mesh>
      ))}
      {picked.length === 2 && (
        <lineSegments geometry={line} renderOrder={2} raycast={() => null}>
          <lineBasicMaterial color="#c4432d" depthTest={false} transparent />
        </lineSegments>
      )}
    </>
  );
}
