import type { PlanGeometry } from "./geometry";

const CLOSEST_PX = 4;

/** Lines every so many mm over the piece; none where they would run together. */
export function GridLines({ geometry, everyMm }: { geometry: PlanGeometry; everyMm: number }) {
  const [width, depth] = geometry.size;
  if (everyMm * geometry.scale < CLOSEST_PX) return null;
  const low = geometry.toPx({ x: 0, y: 0 });
  const high = geometry.toPx({ x: width, y: depth });
  let path = "";
  for (let x = everyMm; x < width; x += everyMm) path += `M${low.x + x * geometry.scale} ${low.y}V${high.y}`;
  for (let y = everyMm; y < depth; y += everyMm) path += `M${low.x} ${low.y - y * geometry.scale}H${high.x}`;
  return (
    <g pointerEvents="none" data-testid="grid">
      <path d={path} stroke="#fbf8f2" strokeWidth={1.6} opacity={0.35} fill="none" />
      <path d={path} stroke="#2c6f62" strokeWidth={0.7} opacity={0.7} fill="none" />
    </g>
  );
}
