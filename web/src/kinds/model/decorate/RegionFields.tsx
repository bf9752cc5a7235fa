import Form from "react-bootstrap/Form";
import type { Decoration } from "../../../api/decorations";
import { Button } from "../../../ui/Button";
import { LengthField } from "../../../ui/LengthField";
import { NumberField } from "../../../ui/NumberField";
import type { DecorationFieldsProps } from "./DecorationFields";
import { useDecorStore } from "../../../state/decorStore";

type Kind = Decoration["pick"]["kind"];
const KINDS: readonly { value: Kind; label: string }[] = [
  { value: "free", label: "Wherever it lies" },
  { value: "faces", label: "Faces that are pressed" },
  { value: "brush", label: "Where it is painted" },
  { value: "lasso", label: "What is encircled" },
];
const HINTS: Partial<Record<Kind, string>> = {
  faces: "Press a face; its neighbours count as far as no edge bends more than the angle.",
  brush: "Paint over the model.",
  lasso: "Draw round a part of the model.",
};

/** The faces that a decoration keeps to. */
export function RegionFields({ decoration, onKeep }: DecorationFieldsProps) {
  const { pick } = decoration;
  const tool = useDecorStore((state) => state.tool);
  const set = useDecorStore((state) => state.set);
  const kind: Kind = pick.kind === "everything" ? "free" : pick.kind;
  const hint = HINTS[kind];
  const wanted = kind === "lasso" ? "lasso" : "pick";
  const change = (what: string, part: Partial<Decoration["pick"]>) => onKeep(what, { pick: { ...pick, ...part } });
  return (
    <>
      <div>
        <label className="mb-1" htmlFor={`region-${decoration.id}`}>
          Region it keeps to
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
          {KINDS.map(({ value, label }) => (
            <option key={value} value={value}>
              {label}
            </option>
          ))}
        </Form.Select>
        {(hint || tool === "lasso") && <p className="quiet-label mt-1">{tool === "lasso" ? HINTS.lasso : hint}</p>}
      </div>
      {kind === "faces" && <NumberField label="Sharpest edge passed" unit="°" value={pick.most_deg} lowest={0} highest={180} step={1} onKeep={(most_deg) => change(`edges up to ${most_deg}°`, { most_deg })} />}
      {kind === "brush" && <LengthField label="Radius of the region brush" value={pick.radius_mm} lowest={0.01} highest={1000} step={0.5} onKeep={(radius_mm) => change(`brush of ${radius_mm} mm`, { radius_mm })} />}
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
