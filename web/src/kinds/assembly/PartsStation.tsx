import Dropdown from "react-bootstrap/Dropdown";
import type { AssemblyDocument } from "../../api/client";
import { useAddPart, useShelf } from "../../api/pieces";
import { useBenchStore } from "../../state/benchStore";
import { usePartSchemas } from "../../state/partSchemas";
import { usePlanSide } from "../../state/previews";
import type { Editing } from "../../state/useEditing";
import { FloatingMenu } from "../../ui/FloatingMenu";
import { WorkCard } from "../../ui/WorkCard";
import { newRow } from "../common/fields/newRow";
import { movedPart, movedTo, withPart, type PlacedPart } from "./assemblyEdits";
import { PartRow } from "./PartRow";
import { useHeldParts } from "./useHeldParts";

interface Props {
  pieceId: string;
  revision: number;
  document: AssemblyDocument;
  editing: Editing;
}

/** First measures of ready parts, mm. */
const FIRST: Record<string, Record<string, number>> = {
  plate: { width_mm: 80, depth_mm: 60, height_mm: 3 },
  disc: { width_mm: 60, depth_mm: 60, height_mm: 5 },
  plinth: { width_mm: 60, depth_mm: 60, height_mm: 24 },
  peg: { width_mm: 6, depth_mm: 6, height_mm: 12 },
  easel: { width_mm: 60, depth_mm: 30, height_mm: 20 },
};

/** Parts that things are set on: they come first, and what stood on the ground stands on them. */
const UNDER: Record<string, true> = { plate: true, disc: true, plinth: true, easel: true };
const BEYOND = 1.3;
/** Letters stand on its front edge, this share of its depth from the middle. */
const TO_THE_FRONT = 0.41;

function standing(part: PlacedPart): PlacedPart {
  return part.stands === "free" && part.z_mm === 0 && part.how !== "cut" ? { ...part, stands: "on" } : part;
}

/** A foot a little larger than what is there, in whole mm. */
function roundAbout([width, depth]: readonly [number, number, number]) {
  const deep = Math.ceil(BEYOND * depth);
  return { width_mm: Math.ceil(BEYOND * width), depth_mm: deep, letter_mm: Math.max(2, Math.round(deep / 15)), letter_up_mm: -Math.round(TO_THE_FRONT * deep) };
}

/** The parts of a whole: which, where each stands, and how it meets the others. */
export function PartsStation({ pieceId, revision, document, editing }: Props) {
  const schemas = usePartSchemas();
  const part = schemas.named("PlacedPart");
  const ready = schemas.named("ReadyPart");
  const shapes = ready?.fields.find(({ name }) => name === "shape")?.choices ?? {};
  const opId = useBenchStore((state) => state.opId);
  const set = useBenchStore((state) => state.set);
  const shelf = useShelf();
  const finished = usePlanSide().finishedMm;
  const add = useAddPart(pieceId);
  const parts = document.assembly;
  const keep = (label: string, assembly: readonly PlacedPart[]) => editing.keep(label, { assembly });
  useHeldParts(parts, (id, by) => {
    const part = parts.find((each) => each.id === id);
    if (part) keep(`${part.name} moved`, withPart(parts, id, movedTo(part, by)));
  });
  const addReady = (shape: string) => {
    const name = shapes[shape] ?? shape;
    const source = { ...ready?.defaults, kind: "ready", shape, ...FIRST[shape], ...(shape in UNDER && finished ? roundAbout(finished) : {}) };
    const [lowest] = parts;
    const middle = lowest ? { x_mm: lowest.x_mm, y_mm: lowest.y_mm } : {};
    const made = newRow(part, { name, source, ...middle, stands: lowest && !(shape in UNDER) ? "on" : "free" }) as unknown as PlacedPart;
    set({ opId: made.id });
    keep(`Add ${name.toLowerCase()}`, shape in UNDER ? [made, ...parts.map(standing)] : [...parts, made]);
  };
  return (
    <WorkCard title="Parts">
      <p className="quiet-label">What stands on top stands on the parts before it in this list. Drag parts by their middles, on the Plan or in the Model.</p>
      {parts.map((each, at) => (
        <PartRow
          key={each.id}
          part={each}
          schema={part}
          ready={ready}
          open={opId === each.id}
          first={at === 0}
          last={at === parts.length - 1}
          onOpen={() => set({ opId: opId === each.id ? null : each.id })}
          onChange={(what, change) => keep(`${each.name}, ${what}`.slice(0, 200), withPart(parts, each.id, change))}
          onMove={(by) => keep(`${each.name} moved in the list`, movedPart(parts, each.id, by))}
          over={parts[0]}
          onCopy={() => keep(`Copy ${each.name}`, [...parts, { ...each, id: globalThis.crypto.randomUUID().slice(0, 8) }])}
          onRemove={() => keep(`${each.name} removed`, parts.filter((other) => other.id !== each.id))}
        />
      ))}
      {add.error && (
        <p className="measure-refusal" role="alert">
          {add.error.message}
        </p>
      )}
      <div className="d-flex gap-2">
        <Dropdown className="flex-grow-1">
          <Dropdown.Toggle variant="outline-secondary" size="sm" className="w-100" disabled={add.isPending}>
            <i className="bi bi-plus-lg me-1" aria-hidden="true" />
            Add a piece
          </Dropdown.Toggle>
          <FloatingMenu className="piece-menu">
            {shelf.data
              ?.filter(({ id }) => id !== pieceId)
              .map((piece) => (
                <Dropdown.Item key={piece.id} as="button" type="button" onClick={() => add.mutate({ base: revision, piece_id: piece.id })}>
                  {piece.title} <span className="quiet-label">{piece.body}</span>
                </Dropdown.Item>
              ))}
          </FloatingMenu>
        </Dropdown>
        <Dropdown className="flex-grow-1">
          <Dropdown.Toggle variant="outline-secondary" size="sm" className="w-100">
            <i className="bi bi-plus-lg me-1" aria-hidden="true" />
            Add a ready part
          </Dropdown.Toggle>
          <FloatingMenu>
            {Object.entries(shapes).map(([shape, title]) => (
              <Dropdown.Item key={shape} as="button" type="button" onClick={() => addReady(shape)}>
                {title}
              </Dropdown.Item>
            ))}
          </FloatingMenu>
        </Dropdown>
      </div>
    </WorkCard>
  );
}
