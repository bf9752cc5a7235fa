import type { OutlinesView } from "../../api/client";
import type { PartSchema } from "../../api/parts";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { WorkCard } from "../../ui/WorkCard";
import { placesOf, shownCurves, type MendKind } from "./mendKinds";
import { useOutlineStore, withPressed } from "../../state/outlineStore";

const MODES = [
  { value: "outlines", label: "Outlines" },
  { value: "nodes", label: "Nodes" },
] as const;
const QUICK: MendKind[] = ["delete", "keep", "combine", "offset", "move", "spread"];
const NODE_ACTS = { insert: "Insert here", remove: "Remove", corner: "Corner", smooth: "Smooth" } as const;
const MOST_LISTED = 60;

interface Props {
  view: OutlinesView | undefined;
  kinds: Record<string, PartSchema>;
  onAdd: (kind: MendKind, parameters: Record<string, unknown>, label?: string) => void;
}

/** All outlines as a list, and what can be done with the chosen ones. */
export function CurveList({ view, kinds, onAdd }: Props) {
  const { mode, chosen, node, set } = useOutlineStore();
  if (!view) return null;
  const curves = shownCurves(view);
  const places = placesOf(view, chosen);
  const add = (kind: MendKind, more: Record<string, unknown> = {}) => {
    onAdd(kind, { chosen: places, ...more });
    set({ chosen: [], node: null });
  };
  return (
    <WorkCard title="Outlines">
      <Choice label="What a press on the Plan chooses" value={mode} options={MODES} onChange={(next) => set({ mode: next, node: null })} />
      <p className="quiet-label">
        {mode === "outlines"
          ? "Press an outline, or draw a frame round several; Shift adds."
          : "Press an outline to see its nodes, then drag one."}
      </p>
      <ul className="curve-list" aria-label="List of outlines">
        {curves.slice(0, MOST_LISTED).map((curve) => (
          <li key={curve.number}>
            <button
              type="button"
              aria-pressed={chosen.includes(curve.number)}
              onClick={(event) => set({ chosen: withPressed(chosen, curve.number, event.shiftKey || event.ctrlKey), node: null })}
            >
              <span>{nameOf(view, curve.number)}</span>
              <span className="quiet-label">{curve.closed ? `${curve.area_mm2.toFixed(curve.area_mm2 < 10 ? 2 : 0)} mm²` : "open"}</span>
            </button>
          </li>
        ))}
      </ul>
      {curves.length > MOST_LISTED && <p className="quiet-label">and {(curves.length - MOST_LISTED).toLocaleString("en")} more on the Plan</p>}
      {mode === "outlines" ? (
        <div className="d-flex flex-wrap gap-1">
          {QUICK.map((kind) => (
            <Button key={kind} size="sm" variant="outline-secondary" disabled={chosen.length < (kind === "combine" ? 2 : 1)} onClick={() => add(kind)}>
              {kinds[kind]?.heading}
            </Button>
          ))}
        </div>
      ) : (
        <div className="d-flex flex-wrap gap-1">
          {(Object.keys(NODE_ACTS) as (keyof typeof NODE_ACTS)[]).map((action) => (
            <Button
              key={action}
              size="sm"
              variant="outline-secondary"
              disabled={!node}
              onClick={() => {
                if (!node) return;
                onAdd("node", { action, place: action === "insert" ? besideNode(view, node) : node.place });
                set({ node: null });
              }}
            >
              {NODE_ACTS[action]}
            </Button>
          ))}
        </div>
      )}
    </WorkCard>
  );
}

function nameOf(view: OutlinesView, number: number): string {
  const curve = view.curves[number];
  const layer = view.layers[curve?.layer ?? 0];
  const kind = curve?.width_mm != null ? `Stroke ${curve.width_mm.toFixed(2)} mm` : "Outline";
  return view.layers.length > 1 ? `${kind} ${number + 1}, ${layer?.name ?? ""}` : `${kind} ${number + 1}`;
}

/** Halfway to the next node, so that a new one is set between the two. */
function besideNode(view: OutlinesView, node: { curve: number; place: [number, number] }): [number, number] {
  const nodes = view.curves[node.curve]?.nodes ?? [];
  const at = nodes.findIndex(([x = 0, y = 0]) => x / view.width_mm === node.place[0] && y / view.width_mm === node.place[1]);
  const next = nodes[(at + 1) % Math.max(nodes.length, 1)];
  if (at < 0 || !next) return node.place;
  return [(node.place[0] + (next[0] ?? 0) / view.width_mm) / 2, (node.place[1] + (next[1] ?? 0) / view.width_mm) / 2];
}
