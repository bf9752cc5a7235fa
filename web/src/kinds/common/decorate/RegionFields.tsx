import Form from "react-bootstrap/Form";
import type { Decoration } from "../../../api/decorations";
import { fieldNamed } from "../../../api/parts";
import { Button } from "../../../ui/Button";
import { RowFields } from "../fields/RowFields";
import type { DecorationFieldsProps } from "./DecorationFields";
import { useDecorStore } from "../../../state/decorStore";
import { useDecorationParts } from "./useDecorationParts";

type Kind = Decoration["pick"]["kind"];
/** The faces that a decoration keeps to. */
export function RegionFields({ decoration, onKeep }: DecorationFieldsProps) {
  const { pick } = decoration;
  const tool = useDecorStore((state) => state.tool);
  const set = useDecorStore((state) => state.set);
  const kind: Kind = pick.kind === "everything" ? "free" : pick.kind;
  const part = useDecorationParts().pick;
  const { label, hints, choices } = fieldNamed(part, "kind");
  const hint = hints[kind];
  const wanted = kind === "lasso" ? "lasso" : "pick";
  const change = (what: string, part: Partial<Decoration["pick"]>) => onKeep(what, { pick: { ...pick, ...part } });
  return (
    <>
      <div>
        <label className="mb-1" htmlFor={`region-${decoration.id}`}>
          {label}
        </label>
        <Form.Select
          id={`region-${decoration.id}`}
          size="sm"
          value={kind}
          onChange={(event) => {
            const next = event.currentTarget.value as Kind;
            // A region is kept once something is picked; until then the decoration lies as it did.
            if (next === "free") change("everywhere", { kind: "free", places: [] });
            else if (next === "lasso") set({ tool: "lasso", fresh: null });
            else change("region", { kind: next, places: [decoration.at] });
          }}
        >
          {Object.entries(choices)
            .filter(([value]) => value !== "everything")
            .map(([value, words]) => (
              <option key={value} value={value}>
                {words}
              </option>
            ))}
        </Form.Select>
        {(hint || tool === "lasso") && <p className="quiet-label mt-1">{tool === "lasso" ? hints.lasso : hint}</p>}
      </div>
      <RowFields part={part} row={pick} only={["most_deg", "radius_mm"]} onKeep={change} />
      {kind !== "free" && (
        <div className="d-flex gap-2">
          <Button size="sm" variant={tool === wanted ? "primary" : "outline-secondary"} aria-pressed={tool === wanted} onClick={() => set({ tool: tool === wanted ? null : wanted, fresh: null })}>
            {kind === "lasso" ? "Encircle anew" : "Pick on the model"}
          </Button>
          <Button size="sm" variant="outline-secondary" onClick={() => change("everywhere", { kind: "free", places: [] })}>
            Everywhere
          </Button>
        </div>
      )}
    </>
  );
}
