import { useThree, type ThreeEvent } from "@react-three/fiber";
import { useRef } from "react";
import { Plane, Vector3, type Mesh } from "three";
import { useBenchStore } from "../../state/benchStore";
import { usePartsStore, type HeldPart } from "../../state/partsStore";

interface Props {
  low: readonly [number, number, number];
  reach: number;
}

const UP = new Vector3(0, 0, 1);

/** A grip at the foot of every part, to move it over the ground in the Model. */
export default function PartLayer({ low, reach }: Props) {
  const parts = usePartsStore((state) => state.parts);
  return parts.map((part) => <Grip key={`${part.id} ${part.x_mm} ${part.y_mm}`} part={part} low={low} reach={reach} />);
}

function Grip({ part, low, reach }: Props & { part: HeldPart }) {
  const mesh = useRef<Mesh>(null);
  const begun = useRef<Vector3 | null>(null);
  const held = useBenchStore((state) => state.opId === part.id);
  const get = useThree((state) => state.get);
  const invalidate = useThree((state) => state.invalidate);
  const steer = (on: boolean) => {
    const { controls } = get() as unknown as { controls: { enabled: boolean } | null };
    if (controls) controls.enabled = on;
  };
  const spotOf = (event: ThreeEvent<PointerEvent>) => {
    const at = event.eventObject.getWorldPosition(new Vector3());
    return event.ray.intersectPlane(new Plane().setFromNormalAndCoplanarPoint(UP, at), new Vector3());
  };
  const x = part.x_mm - low[0];
  const y = part.y_mm - low[1];
  const take = (event: ThreeEvent<PointerEvent>) => {
    begun.current = spotOf(event);
    if (!begun.current) return;
    event.stopPropagation();
    (event.target as Element).setPointerCapture(event.pointerId);
    useBenchStore.getState().set({ opId: part.id });
    steer(false);
  };
  const drag = (event: ThreeEvent<PointerEvent>) => {
    const spot = begun.current && spotOf(event);
    if (!spot || !begun.current) return;
    mesh.current?.position.set(x + spot.x - begun.current.x, y + spot.y - begun.current.y, mesh.current.position.z);
    invalidate();
  };
  const letGo = () => {
    if (!begun.current || !mesh.current) return;
    begun.current = null;
    steer(true);
    const by = { x: mesh.current.position.x - x, y: mesh.current.position.y - y };
    if (Math.hypot(by.x, by.y) > 1e-3) usePartsStore.getState().move?.(part.id, by);
  };
  return (
    <mesh ref={mesh} position={[x, y, Math.max(0, part.z_mm - low[2])]} renderOrder={3} onPointerDown={take} onPointerMove={drag} onPointerUp={letGo} onPointerCancel={letGo}>
      <cylinderGeometry args={[reach / 45, reach / 45, reach / 150, 24]} />
      <meshBasicMaterial color={held ? "#c4432d" : "#2c6f62"} depthTest={false} transparent opacity={0.85} />
    </mesh>
  );
}
