import { useRef } from "react";
import type { ContentBox } from "../../../../api/ops";
import { useBenchStore } from "../../../../state/benchStore";
import { lengthWithUnit } from "../../../../state/units";
import type { PlanGeometry } from "../../../../views/plan/geometry";
import { gripped, type Grip } from "./boxEdits";
import { Handle } from "./Handle";

const GRIPS: readonly { grip: Grip; name: string; cursor: string }[] = [
  { grip: ["left", "bottom"], name: "Lower left corner", cursor: "nesw-resize" },
  { grip: ["right", "bottom"], name: "Lower right corner", cursor: "nwse-resize" },
  { grip: ["right", "top"], name: "Upper right corner", cursor: "nesw-resize" },
  { grip: ["left", "top"], name: "Upper left corner", cursor: "nwse-resize" },
  { grip: ["left"], name: "Left side", cursor: "ew-resize" },
  { grip: ["right"], name: "Right side", cursor: "ew-resize" },
  { grip: ["bottom"], name: "Lower side", cursor: "ns-resize" },
  { grip: ["top"], name: "Upper side", cursor: "ns-resize" },
  { grip: ["left", "right", "bottom", "top"], name: "Whole box", cursor: "move" },
];

interface Props {
  /** In shares of the plan. */
  box: ContentBox;
  geometry: PlanGeometry;
  veiled: boolean;
  onChange: (box: ContentBox, grip: Grip, kept: boolean) => void;
}

/** A box over the Plan with handles and its size in mm; what lies outside may be veiled. */
export function BoxFrame({ box, geometry, veiled, onChange }: Props) {
  const unit = useBenchStore((state) => state.unit);
  const taken = useRef<ContentBox | null>(null);
  const [width, depth] = geometry.size;
  const low = geometry.toPx({ x: box.left * width, y: box.bottom * depth });
  const high = geometry.toPx({ x: box.right * width, y: box.top * depth });
  const outerLow = geometry.toPx({ x: 0, y: 0 });
  const outerHigh = geometry.toPx({ x: width, y: depth });
  const ring = (a: typeof low, b: typeof low) => `M${a.x} ${a.y}H${b.x}V${b.y}H${a.x}Z`;
  const middle = (one: number, two: number) => (one + two) / 2;
  const placeOf = (grip: Grip) => ({
    x: width * (grip.includes("left") === grip.includes("right") ? middle(box.left, box.right) : grip.includes("left") ? box.left : box.right),
    y: depth * (grip.includes("bottom") === grip.includes("top") ? middle(box.bottom, box.top) : grip.includes("bottom") ? box.bottom : box.top),
  });
  const size = `${lengthWithUnit((box.right - box.left) * width, unit, 1)} × ${lengthWithUnit((box.top - box.bottom) * depth, unit, 1)}`;
  return (
    <g>
      {veiled && (
        <path d={ring(outerLow, outerHigh) + ring(low, high)} fillRule="evenodd" fill="#2a2d2e" opacity={0.5} pointerEvents="none" />
      )}
      <path d={ring(low, high)} fill="none" stroke="#fbf8f2" strokeWidth={3} opacity={0.8} pointerEvents="none" />
      <path d={ring(low, high)} fill="none" stroke="#2c6f62" strokeWidth={1.5} pointerEvents="none" />
      <g className="plan-tag" transform={`translate(${low.x + 8} ${high.y + 20})`} pointerEvents="none">
        <text stroke="#fbf8f2" strokeWidth={4} paintOrder="stroke" data-testid="box-size">
          {size}
        </text>
      </g>
      {GRIPS.map(({ grip, name, cursor }) => (
        <Handle
          key={name}
          label={name}
          testId={`grip-${grip.join("-")}`}
          geometry={geometry}
          at={placeOf(grip)}
          cursor={cursor}
          onMove={(by, kept) => {
            taken.current ??= box;
            onChange(gripped(taken.current, grip, by.x / width, by.y / depth), grip, kept);
            if (kept) taken.current = null;
          }}
        />
      ))}
    </g>
  );
}
