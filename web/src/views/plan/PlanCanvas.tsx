import { useEffect, useRef } from "react";
import type { PlanGeometry } from "./geometry";

interface Props {
  pixels: Uint8ClampedArray<ArrayBuffer> | null;
  columns: number;
  rows: number;
  geometry: PlanGeometry;
  testId: string;
  /** Only this share of the width is shown, from the left. */
  leftShare?: number;
  shadow?: boolean;
}

/** Pixels over the piece; the outermost samples lie on its edges. */
export function PlanCanvas({ pixels, columns, rows, geometry, testId, leftShare, shadow }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (pixels) canvas.current?.getContext("2d")?.putImageData(new ImageData(pixels, columns, rows), 0, 0);
  }, [pixels, columns, rows]);
  const [width, depth] = geometry.size;
  const corner = geometry.toPx({ x: 0, y: depth });
  const acrossPx = (width * geometry.scale) / Math.max(1, columns - 1);
  const downPx = (depth * geometry.scale) / Math.max(1, rows - 1);
  return (
    <canvas
      ref={canvas}
      data-testid={testId}
      width={columns}
      height={rows}
      style={{
        position: "absolute",
        left: corner.x - acrossPx / 2,
        top: corner.y - downPx / 2,
        width: columns * acrossPx,
        height: rows * downPx,
        clipPath: leftShare === undefined ? undefined : `inset(0 ${100 * (1 - leftShare)}% 0 0)`,
        boxShadow: shadow ? "0 1px 6px rgb(42 45 46 / 22%)" : undefined,
        pointerEvents: "none",
      }}
    />
  );
}
