import { useEffect, useRef } from "react";
import type { Thumb } from "../../../api/preview";

/** A small picture; where it is blank the ground shows. */
export function OpThumb({ thumb, label }: { thumb: Thumb | undefined; label: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (!thumb) return;
    const pixels = new Uint8ClampedArray(thumb.gray.length * 4);
    thumb.gray.forEach((gray, i) => pixels.set([gray, gray, gray, thumb.cover[i] ?? 0], 4 * i));
    canvas.current?.getContext("2d")?.putImageData(new ImageData(pixels, thumb.columns, thumb.rows), 0, 0);
  }, [thumb]);
  if (!thumb) return <span className="op-thumb" aria-hidden="true" />;
  return (
    <canvas ref={canvas} className="op-thumb" width={thumb.columns} height={thumb.rows} role="img" aria-label={label} />
  );
}
