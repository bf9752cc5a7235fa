import Form from "react-bootstrap/Form";
import type { MapKind } from "../../../api/preview";
import { useBenchStore } from "../../../state/benchStore";
import { WorkCard } from "../../../ui/WorkCard";

const KINDS: Record<MapKind, { name: string; hint: string }> = {
  thickness: { name: "Thickness", hint: "The largest sphere inside that touches there and reaches the other side." },
  "thickness-ray": { name: "Thickness, straight through", hint: "By a ray straight inwards from every face. It grazes steep walls, and then tells too little." },
  deviation: { name: "Off the asked surface", hint: "The largest distance under every face. Build the piece to see it at full resolution." },
  draft: { name: "Lean of walls for a mould", hint: "Walls below 0° are undercut; a stiff mould does not come off them." },
  "overhang-lying": { name: "Overhang, printed lying", hint: "Faces that lean more than 45° over their foot need support." },
  "overhang-standing": { name: "Overhang, printed standing", hint: "Faces that lean more than 45° over their foot need support." },
  lines: { name: "Printed lines in walls", hint: "How many lines of the maker fit across; brick for less than one, ochre where a rest stays hollow." },
  scars: { name: "Where support touches", hint: "As it is laid on the plate now: undersides that it holds, and what it stands on." },
};

/** What the model is coloured by. */
export function ColourCard() {
  const kind = useBenchStore((state) => state.mapKind);
  const set = useBenchStore((state) => state.set);
  return (
    <WorkCard title="Colour the model">
      <Form.Select
        size="sm"
        aria-label="Colour the model by"
        value={kind ?? ""}
        onChange={(event) => set({ mapKind: (event.currentTarget.value || null) as MapKind | null })}
      >
        <option value="">Plain, under the lamp</option>
        {(Object.keys(KINDS) as MapKind[]).map((each) => (
          <option key={each} value={each}>
            {KINDS[each].name}
          </option>
        ))}
      </Form.Select>
      {kind && <p className="quiet-label">{KINDS[kind].hint}</p>}
    </WorkCard>
  );
}
