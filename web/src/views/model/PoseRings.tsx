import { useThree, type ThreeEvent } from "@react-three/fiber";
import { useRef, type ReactNode } from "react";
import { Plane, Vector3, type Group } from "three";
import { usePoseStore } from "../../state/poseStore";
import { angleOn, snapped, turnOf } from "./turns";

interface Props {
  /** How far the model reaches, mm. */
  reach: number;
  children: ReactNode;
}

const HALF_TURN = Math.PI / 2;
const RINGS = [
  { name: "width", axis: new Vector3(1, 0, 0), lies: [0, HALF_TURN, 0], colour: "#c4432d" },
  { name: "depth", axis: new Vector3(0, 1, 0), lies: [HALF_TURN, 0, 0], colour: "#c08a2b" },
  { name: "height", axis: new Vector3(0, 0, 1), lies: [0, 0, 0], colour: "#2c6f62" },
] as const;
const RADIUS_SHARE = 0.4;

/** Rings round the model that turn it, in steps of 5 degrees; it follows the hand at once, and is kept when let go of. */
export function PoseRings({ reach, children }: Props) {
  const group = useRef<Group>(null);
  const begun = useRef<number | null>(null);
  const mode = usePoseStore((state) => state.mode);
  const get = useThree((state) => state.get);
  const invalidate = useThree((state) => state.invalidate);
  const angle = (event: ThreeEvent<PointerEvent>, axis: Vector3) => {
    const spot = event.ray.intersectPlane(new Plane(axis, 0), new Vector3());
    return spot && angleOn(axis, spot);
  };
  /** Whether dragging moves the eye. */
  const steer = (on: boolean) => {
    const { controls } = get() as unknown as { controls: { enabled: boolean } | null };
    if (controls) controls.enabled = on;
  };
  const take = (event: ThreeEvent<PointerEvent>, axis: Vector3) => {
    begun.current = angle(event, axis);
    if (begun.current === null) return;
    event.stopPropagation();
    (event.target as Element).setPointerCapture(event.pointerId);
    steer(false);
  };
  const turn = (event: ThreeEvent<PointerEvent>, axis: Vector3) => {
    const now = begun.current === null ? null : angle(event, axis);
    if (now === null || begun.current === null) return;
    group.current?.quaternion.setFromAxisAngle(axis, snapped(now - begun.current));
    invalidate();
  };
  const letGo = () => {
    if (begun.current === null) return;
    begun.current = null;
    steer(true);
    const kept = group.current ? turnOf(group.current.quaternion) : null;
    if (kept?.some((degrees) => degrees !== 0)) usePoseStore.getState().keep?.(kept);
  };
  return (
    <>
      <group ref={group}>{children}</group>
      {mode === "rings" &&
        RINGS.map(({ name, axis, lies, colour }) => (
          <group key={name} rotation={[...lies]}>
            <mesh renderOrder={2} raycast={() => null}>
              <torusGeometry args={[reach * RADIUS_SHARE, reach / 260, 8, 96]} />
              <meshBasicMaterial color={colour} depthTest={false} transparent opacity={0.9} />
            </mesh>
            <mesh onPointerDown={(event) => take(event, axis)} onPointerMove={(event) => turn(event, axis)} onPointerUp={letGo} onPointerCancel={letGo}>
              <torusGeometry args={[reach * RADIUS_SHARE, reach / 40, 8, 64]} />
              <meshBasicMaterial visible={false} />
            </mesh>
          </group>
        ))}
    </>
  );
}
