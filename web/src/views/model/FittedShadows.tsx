import { useThree } from "@react-three/fiber";
import { useEffect, type RefObject } from "react";
import { Box3, Vector3, type BufferGeometry, type DirectionalLight, type EventDispatcher } from "three";
import { useBenchStore } from "../../state/benchStore";
import { fitShadow } from "./lampShadow";

/** How long the eye rests before shadows are drawn anew for what it sees. */
const REST_MS = 160;
interface Props {
  lampRef: RefObject<DirectionalLight | null>;
  of: BufferGeometry;
  size: readonly [number, number, number];
  cast: boolean;
  cut: number | undefined;
}

type Turned = EventDispatcher<{ start: object; end: object; change: object }>;

/**
 * Shadows of what is seen, as fine as the screen: drawn anew when what casts them or the lamp changes, and once the eye
 * comes to rest. While it turns they are those of the whole piece.
 */
export function FittedShadows({ lampRef, of, size, cast, cut }: Props) {
  const gl = useThree((state) => state.gl);
  const camera = useThree((state) => state.camera);
  const controls = useThree((state) => state.controls) as Turned | null;
  const invalidate = useThree((state) => state.invalidate);
  const light = useBenchStore((state) => state.light);
  const [width, depth, thick] = size;
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    const half = new Vector3(width, depth, thick).divideScalar(2);
    const box = new Box3(half.clone().negate(), half);
    const draw = (all: boolean) => {
      const lamp = lampRef.current;
      if (!lamp) return;
      fitShadow(lamp, all ? null : camera, box);
      Object.assign(gl.shadowMap, { autoUpdate: false, needsUpdate: true });
      invalidate();
    };
    const rest = () => {
      clearTimeout(timer);
      timer = setTimeout(() => draw(false), REST_MS);
    };
    const begin = () => {
      clearTimeout(timer);
      draw(true);
    };
    draw(false);
    controls?.addEventListener("start", begin);
    controls?.addEventListener("change", rest);
    controls?.addEventListener("end", rest);
    return () => {
      clearTimeout(timer);
      controls?.removeEventListener("start", begin);
      controls?.removeEventListener("change", rest);
      controls?.removeEventListener("end", rest);
    };
  }, [gl, camera, controls, invalidate, lampRef, of, width, depth, thick, cast, cut, light]);
  return null;
}
