import { useState } from "react";
import { useBenchStore } from "../../../state/benchStore";
import { useModellingStore } from "../../../state/modellingStore";
import { usePartSchemas } from "../../../state/partSchemas";
import type { PlanGeometry } from "../../../views/plan/geometry";
import { StrokeSurface } from "../picture/tools/StrokeSurface";
import type { Modelling, Places } from "./useModelling";

const COLOUR = "#2c6f62";

interface Props {
  geometry: PlanGeometry;
  modelling: Modelling;
}

/** Draws the next stroke over the heights: its trail at once, and the heights as fast as they come. */
export function ModellingTool({ geometry, modelling }: Props) {
  const tool = useModellingStore((state) => state.tool);
  const sizeMm = useBenchStore((state) => state.brush.sizeMm);
  const [trail, setTrail] = useState<Places>([]);
  const words = usePartSchemas().named("HeightStroke").fields.find(({ name }) => name === "tool")?.choices ?? {};
  if (!tool) return null;
  const [width, depth] = geometry.size;
  const path = trail.map(([x, y], at) => {
    const px = geometry.toPx({ x: x * width, y: y * depth });
    return `${at ? "L" : "M"}${px.x} ${px.y}`;
  });
  return (
    <g>
      {path.length > 0 && (
        <path
          data-testid="modelling-trail"
          d={path.length === 1 ? `${path[0]}h0.1` : path.join("")}
          fill="none"
          stroke={COLOUR}
          strokeWidth={Math.max(2, sizeMm * geometry.scale)}
          strokeLinecap="round"
          strokeLinejoin="round"
          opacity={0.15}
          pointerEvents="none"
        />
      )}
      <StrokeSurface
        label={words[tool] ?? tool}
        geometry={geometry}
        colour={COLOUR}
        toPlace={({ x, y }) => ({ x: x / width, y: y / depth })}
        onStroke={({ places }, done) => {
          setTrail(done ? [] : places);
          if (done) modelling.keep(places);
          else modelling.draw(places);
        }}
      />
    </g>
  );
}
