import { isBusy, useCarving, useRouter } from "../../api/carving";
import type { CarvingView } from "../../api/client";
import { useCarveStore } from "../../state/carveStore";
import { useCarvedJob } from "../../state/useCarvedJob";
import type { PlanGeometry } from "./geometry";
import type { Stock } from "./stock";

const COLOURS: Record<string, string> = { rough: "#8a5a2b", finish: "#2f7f76", steep: "#5b6fa8", "rest-layer": "#b07a1e", rest: "#a8432f", "cut-out": "#31363a", pocket: "#2f7f76", "v-carve": "#a8432f", drill: "#31363a" };
const WORDS: Record<string, string> = { rough: "roughing", finish: "finishing", steep: "steep places", "rest-layer": "layers of finer bits", rest: "finer bits", "cut-out": "cut-out", pocket: "floors", "v-carve": "V-carving", drill: "drilled" };
const ARROW_EVERY = 40;

interface Props {
  pieceId: string;
  revision: number;
  stock: Stock;
  geometry: PlanGeometry;
}

/** The stock, the zero point and the ways of the bits over the piece. */
export function RouterPlan({ pieceId, revision, stock, geometry }: Props) {
  const job = useCarvedJob(pieceId, revision);
  const carving = useCarving(job?.id).data;
  const shown = useCarveStore((state) => state.ways);
  const { toPx, scale } = geometry;
  const standing = useRouter();
  const at = carving && isBusy(standing) && standing?.job_id === job?.id ? standing : null;
  const tip = at && toPx({ x: (at.place_mm[0] ?? 0) + (carving?.zero[0] ?? 0), y: (at.place_mm[1] ?? 0) + (carving?.zero[1] ?? 0) });
  const corner = toPx({ x: stock.left, y: stock.low + stock.depth });
  const zero = toPx(stock.zero);
  return (
    <g className="router-plan" pointerEvents="none" data-testid="router-plan">
      <rect x={corner.x} y={corner.y} width={stock.width * scale} height={stock.depth * scale} className="stock-outline" />
      {shown && carving && <Ways ways={carving.ways} geometry={geometry} />}
      {tip && <circle cx={tip.x} cy={tip.y} r={6} className="router-tip" data-testid="router-tip" />}
      <g className="zero-point">
        <circle cx={zero.x} cy={zero.y} r={5} />
        <path d={`M ${zero.x - 9} ${zero.y} H ${zero.x + 22} M ${zero.x} ${zero.y + 9} V ${zero.y - 22}`} />
        <text x={zero.x + 24} y={zero.y + 4}>
          X
        </text>
        <text x={zero.x - 4} y={zero.y - 25}>
          Y
        </text>
      </g>
    </g>
  );
}

function Ways({ ways, geometry }: { ways: CarvingView["ways"]; geometry: PlanGeometry }) {
  return ways.map((pass, at) => (
    <g key={at} stroke={COLOURS[pass.kind] ?? "#555"} fill="none" strokeWidth={0.7} opacity={0.75} data-testid={`ways-${pass.kind}`}>
      {pass.ways.map((way, number) => (
        <Way key={number} way={way} geometry={geometry} colour={COLOURS[pass.kind] ?? "#555"} />
      ))}
    </g>
  ));
}

/** One continuous cut: where it goes, an arrow now and then, a dot where the bit is lifted. */
function Way({ way, geometry, colour }: { way: readonly number[]; geometry: PlanGeometry; colour: string }) {
  const spots = Array.from({ length: way.length / 2 }, (_, at) => geometry.toPx({ x: way[2 * at] ?? 0, y: way[2 * at + 1] ?? 0 }));
  const last = spots.at(-1);
  const arrows: string[] = [];
  let gone = 0;
  for (let at = 1; at < spots.length; at += 1) {
    const [from, to] = [spots[at - 1], spots[at]];
    if (!from || !to) continue;
    const step = Math.hypot(to.x - from.x, to.y - from.y);
    gone += step;
    if (gone < ARROW_EVERY * 8 || step < 6) continue;
    gone = 0;
    const [x, y] = [(from.x + to.x) / 2, (from.y + to.y) / 2];
    const [ux, uy] = [(to.x - from.x) / step, (to.y - from.y) / step];
    arrows.push(`M ${x - 3 * ux + 2 * uy} ${y - 3 * uy - 2 * ux} L ${x + 2 * ux} ${y + 2 * uy} L ${x - 3 * ux - 2 * uy} ${y - 3 * uy + 2 * ux}`);
  }
  return (
    <>
      <path d={`M ${spots.map(({ x, y }) => `${x.toFixed(1)} ${y.toFixed(1)}`).join(" L ")}`} />
      {arrows.length > 0 && <path d={arrows.join(" ")} strokeWidth={1.2} />}
      {last && <circle cx={last.x} cy={last.y} r={1.8} fill={colour} stroke="none" />}
    </>
  );
}

/** What the colours of ways say. */
export function RouterLegend({ pieceId, revision }: Pick<Props, "pieceId" | "revision">) {
  const job = useCarvedJob(pieceId, revision);
  const carving = useCarving(job?.id).data;
  const ways = useCarveStore((state) => state.ways);
  if (!carving || !ways) return null;
  const kinds = [...new Set(carving.ways.map(({ kind }) => kind))];
  return (
    <div className="plan-legend" role="note">
      {kinds.map((kind) => (
        <span key={kind}>
          <i style={{ background: COLOURS[kind] }} /> {WORDS[kind] ?? kind}
        </span>
      ))}
      <span className="quiet-label">dots: the bit is lifted</span>
    </div>
  );
}
