import { useRef } from "react";
import type { Spot } from "../../../../state/benchStore";
import { Handle } from "./Handle";
import type { ToolProps } from "./PictureTools";

const NAMES = ["Lower left corner", "Lower right corner", "Upper right corner", "Upper left corner"];
type Corners = readonly (readonly [number, number])[];

/** The four corners of a photographed sheet, on the picture that comes in. */
export function CornersTool({ op, geometry, onDrag, onKeep }: ToolProps) {
  const taken = useRef<Corners | null>(null);
  const corners = op.corners as Corners;
  const [width, depth] = geometry.size;
  const inMm = ([x, y]: readonly [number, number]): Spot => ({ x: x * width, y: y * depth });
  const outline = corners.map((corner, at) => {
    const { x, y } = geometry.toPx(inMm(corner));
    return `${at ? "L" : "M"}${x} ${y}`;
  });
  return (
    <g>
      <path d={`${outline.join("")}Z`} fill="#2c6f62" fillOpacity={0.12} stroke="#fbf8f2" strokeWidth={3} />
      <path d={`${outline.join("")}Z`} fill="none" stroke="#2c6f62" strokeWidth={1.5} />
      {corners.map((corner, at) => (
        <Handle
          key={NAMES[at]}
          label={NAMES[at] ?? ""}
          testId={`corner-${at}`}
          geometry={geometry}
          at={inMm(corner)}
          onMove={(by, kept) => {
            taken.current ??= corners;
            const moved = taken.current.map(([x, y], i) => (i === at ? [x + by.x / width, y + by.y / depth] : [x, y]));
            if (kept) {
              taken.current = null;
              onKeep("corner moved", { corners: moved });
            } else onDrag({ corners: moved });
          }}
        />
      ))}
    </g>
  );
}
