import { useState } from "react";
import type { ContentBox } from "../../../../api/ops";
import { useBenchStore } from "../../../../state/benchStore";
import { BoxFrame } from "./BoxFrame";
import type { ToolProps } from "./PictureTools";
import { StrokeSurface } from "./StrokeSurface";
import type { BrushStroke } from "./strokes";
import { usePlaces } from "./usePlaces";

const COLOURS = { inside: "#2c6f62", outside: "#9c3524" };

/** Marks for what stays and what goes, and a box; the cut follows when a mark is finished. */
export function MarksTool({ op, geometry, onKeep }: ToolProps) {
  const inside = useBenchStore((state) => state.brush.inside);
  const [drawn, setDrawn] = useState<BrushStroke | null>(null);
  const [dragged, setDragged] = useState<ContentBox | null>(null);
  const { toPlan, toSource } = usePlaces(geometry);
  const [width, depth] = geometry.size;
  const strokes = op.strokes as readonly BrushStroke[];
  const box = op.box as ContentBox | null;
  const pathOf = (stroke: BrushStroke) =>
    stroke.places
      .map(([x, y], at) => {
        const px = geometry.toPx(toPlan({ x, y }));
        return `${at ? "L" : "M"}${px.x} ${px.y}`;
      })
      .join("");
  const onPlan = (source: ContentBox): ContentBox => {
    const a = toPlan({ x: source.left, y: source.bottom });
    const b = toPlan({ x: source.right, y: source.top });
    return {
      left: Math.min(a.x, b.x) / width,
      right: Math.max(a.x, b.x) / width,
      bottom: Math.min(a.y, b.y) / depth,
      top: Math.max(a.y, b.y) / depth,
    };
  };
  const onSource = (plan: ContentBox): ContentBox => {
    const a = toSource({ x: plan.left * width, y: plan.bottom * depth });
    const b = toSource({ x: plan.right * width, y: plan.top * depth });
    return { left: a.x, bottom: a.y, right: b.x, top: b.y };
  };
  return (
    <g>
      {[...strokes, ...(drawn ? [drawn] : [])].map((stroke, at) => (
        <path
          key={at}
          d={pathOf(stroke) + (stroke.places.length === 1 ? "h0.1" : "")}
          fill="none"
          stroke={stroke.inside ? COLOURS.inside : COLOURS.outside}
          strokeWidth={Math.max(2, stroke.size_mm * geometry.scale)}
          strokeLinecap="round"
          strokeLinejoin="round"
          opacity={0.45}
          pointerEvents="none"
        />
      ))}
      <StrokeSurface
        label={inside ? "Mark what stays" : "Mark what goes"}
        geometry={geometry}
        colour={inside ? COLOURS.inside : COLOURS.outside}
        inside={inside}
        onStroke={(stroke, done) => {
          setDrawn(done ? null : stroke);
          if (done) onKeep(inside ? "mark what stays" : "mark what goes", { strokes: [...strokes, stroke] });
        }}
      />
      {box && (
        <BoxFrame
          box={dragged ?? onPlan(box)}
          geometry={geometry}
          veiled={false}
          onChange={(moved, _, kept) => {
            setDragged(kept ? null : moved);
            if (kept) onKeep("box moved", { box: onSource(moved) });
          }}
        />
      )}
    </g>
  );
}
