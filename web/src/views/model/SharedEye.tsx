import { OrbitControls } from "@react-three/drei/core/OrbitControls";
import { useThree } from "@react-three/fiber";
import { useEffect, useRef, type ComponentRef, type RefObject } from "react";
import { useBenchStore } from "../../state/benchStore";
import { useDecorStore } from "../../state/decorStore";
import { useHandStore } from "../../state/handStore";

interface Props {
  view: string;
  /** True while the hand turns the eye. */
  turnedRef: RefObject<boolean>;
}

/** Turning one view turns those beside it. */
export function SharedEye({ view, turnedRef }: Props) {
  const controls = useRef<ComponentRef<typeof OrbitControls>>(null);
  const eye = useBenchStore((state) => state.eye);
  const shared = useBenchStore((state) => state.beside !== null);
  const set = useBenchStore((state) => state.set);
  const camera = useThree((state) => state.camera);
  const invalidate = useThree((state) => state.invalidate);
  const following = useRef(false);
  // While something is held or drawn, the pointer does not turn the model.
  const decorating = useDecorStore((state) => state.grip !== null || (state.tool !== null && state.tool !== "lay"));
  const busy = useHandStore((state) => state.busy) || decorating;
  useEffect(() => {
    if (!eye || eye.by === view || !controls.current) return;
    following.current = true;
    camera.position.set(...(eye.at as [number, number, number]));
    controls.current.target.set(...(eye.target as [number, number, number]));
    controls.current.update();
    following.current = false;
    invalidate();
  }, [eye, view, camera, invalidate]);
  const held = useRef(false);
  const hold = (on: boolean) => {
    held.current = on;
    turnedRef.current = false;
  };
  const tell = () => {
    // A press alone turns nothing, and is still to find what it was on.
    turnedRef.current = held.current;
    const target = controls.current?.target;
    if (!shared || following.current || !target) return;
    set({ eye: { by: view, at: [camera.position.x, camera.position.y, camera.position.z], target: [target.x, target.y, target.z] } });
  };
  return <OrbitControls ref={controls} makeDefault enabled={!busy} enableDamping={false} onChange={tell} onStart={() => hold(true)} onEnd={() => hold(false)} />;
}
