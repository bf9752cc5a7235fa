import type { ToolProps } from "./PictureTools";
import { usePlaces } from "./usePlaces";

/** Takes clicks as spots, and shows those so far. */
export function SpotTool({ op, geometry, onKeep }: ToolProps) {
  const { toPlan, toSource } = usePlaces(geometry);
  const spots = op.spots as readonly (readonly [number, number])[];
  return (
    <g>
      <rect
        data-testid="spot-surface"
        width="100%"
        height="100%"
        fill="transparent"
        style={{ cursor: "crosshair" }}
        onClick={(event) => {
          const { x, y } = toSource(geometry.toMm(event));
          onKeep("spot added", { spots: [...spots, [x, y]] });
        }}
      />
      {spots.map(([x, y], at) => {
        const px = geometry.toPx(toPlan({ x, y }));
        return <circle key={at} cx={px.x} cy={px.y} r={4} fill="#2c6f62" stroke="#fbf8f2" strokeWidth={1.5} pointerEvents="none" />;
      })}
    </g>
  );
}
