import { useEffect, useRef } from "react";
import type { PlanGeometry } from "./geometry";

interface Props {
  pixels: Uint8ClampedArray<ArrayBuffer> | null;
  columns: number;
  rows: number;
  geometry: PlanGeometry;
  /** Mm that a pixel is wide, where it is known. */
  pitch?: number;
  testId: string;
  /** Only this share of the width is shown, from the left. */
  leftShare?: number;
  shadow?: boolean;
}

/** Pixels over the piece, middle on middle: it ends at the middles of the outermost ones, or at their outer sides. */
export function PlanCanvas({ pixels, columns, rows, geometry, pitch, testId, leftShare, shadow }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (pixels) canvas.current?.getContext("2d")?.putImageData(new ImageData(pixels, columns, rows), 0, 0);
  }, [pixels, columns, rows]);
  const [width, depth] = geometry.size;
  const corner = geometry.toPx({ x: 0, y: depth });
  // Whole pixels fill the piece where they are as wide as that takes; elsewhere it ends at the middles of the outermost ones.
  const whole = pitch !== undefined && Math.abs(pitch * columns - width) < pitch / 4;
  const acrossPx = (geometry.scale * width) / Math.max(1, whole ? columns : columns - 1);
  const downPx = (geometry.scale * depth) / Math.max(1, whole ? rows : rows - 1);
  return (
    <canvas
      ref={canvas}
      data-testid={testId}
      width={columns}
      height={rows}
      style={{
        position: "absolute",
        left: corner.x - (columns * acrossPx - width * geometry.scale) / 2,
        top: corner.y - (rows * downPx - depth * geometry.scale) / 2,
        width: columns * acrossPx,
        height: rows * downPx,
        clipPath: leftShare === undefined ? undefined : `inset(0 ${100 * (1 - leftShare)}% 0 0)`,
        boxShadow: shadow ? "0 1px 6px rgb(42 45 46 / 22%)" : undefined,
        pointerEvents: "none",
      }}
    />
  );
}
