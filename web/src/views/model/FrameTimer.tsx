import { useFrame, useThree } from "@react-three/fiber";
import { useBenchStore } from "../../state/benchStore";

/** How long the machine needs for one frame: from its start until what was drawn can be read. */
export function FrameTimer({ onDrawn }: { onDrawn: () => void }) {
  const set = useBenchStore((state) => state.set);
  const gl = useThree((state) => state.gl);
  useFrame(() => {
    const started = performance.now();
    requestAnimationFrame(() => {
      // A machine without a graphics card draws later than it says; reading one pixel waits for that.
      const context = gl.getContext();
      context.readPixels(0, 0, 1, 1, context.RGBA, context.UNSIGNED_BYTE, new Uint8Array(4));
      set({ frameMs: performance.now() - started });
      requestAnimationFrame(onDrawn);
    });
  });
  return null;
}
