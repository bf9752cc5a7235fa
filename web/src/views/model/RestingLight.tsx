import { useFrame, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef, type RefObject } from "react";
import { Box3, Vector3, type DirectionalLight, type HemisphereLight } from "three";
import { GatheredLight } from "./gatheredLight";

/** How long nothing changes before light is gathered, and of how many pictures a still one is made. */
const REST_MS = 350;
const PICTURES = 64;
/** So many are drawn for a picture that is saved, however slow the machine; then as many as this time has room for. */
const FEWEST = 12;
const MOST_MS = 10_000;
/** The mean is shown after so many, and from then on after as many more. */
const SHOWN_AFTER = 8;

interface Props {
  lampRef: RefObject<DirectionalLight | null>;
  skyRef: RefObject<DirectionalLight | null>;
  aroundRef: RefObject<HemisphereLight | null>;
  size: readonly [number, number, number];
  /** Draws the stage in gathered light at once, for whoever takes a picture of it. */
  stillRef: RefObject<(() => void) | null>;
}

/** Soft light: while anything moves the stage is drawn as ever, and once it rests, in the mean of many lights. */
export function RestingLight({ lampRef, skyRef, aroundRef, size, stillRef }: Props) {
  const gl = useThree((state) => state.gl);
  const scene = useThree((state) => state.scene);
  const camera = useThree((state) => state.camera);
  const invalidate = useThree((state) => state.invalidate);
  const [width, depth, thick] = size;
  const box = useMemo(() => {
    const half = new Vector3(width, depth, thick).divideScalar(2);
    return new Box3(half.clone().negate(), half);
  }, [width, depth, thick]);
  const stop = useRef<() => void>(() => undefined);
  const gathered = () => {
    const [lamp, sky, around] = [lampRef.current, skyRef.current, aroundRef.current];
    return lamp && sky && around ? new GatheredLight({ gl, scene, camera }, { lamp, sky, around }, box) : null;
  };
  const gather = () => {
    const light = gathered();
    if (!light) return;
    let asked = 0;
    const go = () => {
      light.add();
      const done = light.count >= PICTURES;
      if (done || light.count % SHOWN_AFTER === 0) light.show();
      if (done) light.dispose();
      else asked = requestAnimationFrame(go);
    };
    go();
    stop.current = () => {
      cancelAnimationFrame(asked);
      light.dispose();
    };
  };
  useFrame(() => {
    stop.current();
    gl.render(scene, camera);
    const timer = setTimeout(gather, REST_MS);
    stop.current = () => clearTimeout(timer);
  }, 1);
  useEffect(() => {
    stillRef.current = () => {
      stop.current();
      const light = gathered();
      if (!light) return;
      const started = performance.now();
      while (light.count < PICTURES && (light.count < FEWEST || performance.now() - started < MOST_MS)) light.add();
      light.show();
      light.dispose();
    };
    return () => {
      stillRef.current = null;
    };
  });
  useEffect(() => {
    invalidate();
    return () => {
      stop.current();
      stop.current = () => undefined;
      invalidate();
    };
  }, [invalidate]);
  return null;
}
