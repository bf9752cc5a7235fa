import { useThree } from "@react-three/fiber";
import { useEffect, type RefObject } from "react";
import { Box3, Vector3, type BufferGeometry, type DirectionalLight, type EventDispatcher, type OrthographicCamera } from "three";
import { useBenchStore } from "../../state/benchStore";
import { boundsOfAll, boundsOfSeen, type ShadowBounds } from "./shadowFit";

/** How long the eye rests before shadows are drawn anew for what it sees. */
const REST_MS = 160;
/** Shadows begin so many texels above the surface that casts them, and their edges are so much of the piece soft. */
const OFF_TEXELS = 2;
const SOFT_SHARE = 1 / 900;
const MOST_SOFT_TEXELS = 3.5;

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
      const eye = aimed(lamp);
      const whole = boundsOfAll(eye, box);
      fit(lamp, all ? whole : (boundsOfSeen(camera, eye, box) ?? whole), half.length());
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

/** The eye that a lamp draws shadows with, turned to where it shines. */
function aimed(lamp: DirectionalLight): OrthographicCamera {
  const eye = lamp.shadow.camera;
  lamp.updateMatrixWorld();
  lamp.target.updateMatrixWorld();
  eye.position.setFromMatrixPosition(lamp.matrixWorld);
  eye.lookAt(new Vector3().setFromMatrixPosition(lamp.target.matrixWorld));
  eye.updateMatrixWorld();
  return eye;
}

function fit({ shadow }: DirectionalLight, bounds: ShadowBounds, reach: number) {
  Object.assign(shadow.camera, bounds);
  shadow.camera.updateProjectionMatrix();
  const texel = Math.max(bounds.right - bounds.left, bounds.top - bounds.bottom) / shadow.mapSize.x;
  shadow.normalBias = OFF_TEXELS * texel;
  shadow.bias = (-0.5 * texel) / (shadow.camera.far - shadow.camera.near);
  shadow.radius = Math.min(MOST_SOFT_TEXELS, Math.max(1, (SOFT_SHARE * reach) / texel));
}
