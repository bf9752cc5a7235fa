import { useThree } from "@react-three/fiber";
import { useEffect, useRef, type RefObject } from "react";
import { Vector2 } from "three";
import { useJudgingStore } from "../../state/judgingStore";
import { savePng } from "./savePng";

const WIDE_PX = 3840;
/** The stage itself, as it is behind the piece. */
const ABOVE = "#434b4f";
const BELOW = "#2b3032";

/** Saves the stage as a picture of 3,840 pixels across, as it is seen, whenever that is asked for. */
export function PictureTaker({ name, stillRef }: { name: string; stillRef: RefObject<(() => void) | null> }) {
  const asked = useJudgingStore((state) => state.pictures);
  const taken = useRef(asked);
  const gl = useThree((state) => state.gl);
  const scene = useThree((state) => state.scene);
  const camera = useThree((state) => state.camera);
  const invalidate = useThree((state) => state.invalidate);
  useEffect(() => {
    if (taken.current === asked) return;
    taken.current = asked;
    const size = gl.getSize(new Vector2());
    const ratio = gl.getPixelRatio();
    const tall = Math.round((WIDE_PX * size.y) / size.x);
    gl.setPixelRatio(1);
    gl.setSize(WIDE_PX, tall, false);
    const still = stillRef.current;
    if (still) still();
    else gl.render(scene, camera);
    const picture = document.createElement("canvas");
    Object.assign(picture, { width: WIDE_PX, height: tall });
    const on = picture.getContext("2d");
    if (on) {
      const ground = on.createLinearGradient(0, 0, 0, tall);
      ground.addColorStop(0, ABOVE);
      ground.addColorStop(1, BELOW);
      on.fillStyle = ground;
      on.fillRect(0, 0, WIDE_PX, tall);
      on.drawImage(gl.domElement, 0, 0);
    }
    gl.setPixelRatio(ratio);
    gl.setSize(size.x, size.y, false);
    invalidate();
    savePng(picture, name);
  }, [asked, gl, scene, camera, invalidate, name, stillRef]);
  return null;
}
