import Dropdown from "react-bootstrap/Dropdown";
import type { PartSchema } from "../../../api/parts";
import { usePartSchemas } from "../../../state/partSchemas";
import { FloatingMenu } from "../../../ui/FloatingMenu";
import { StepHead } from "../../../ui/StepHead";
import { WorkCard } from "../../../ui/WorkCard";
import { RowFields } from "../../common/fields/RowFields";
import { patchAt } from "../../common/fields/patchAt";
import type { StationProps } from "../../common/stationProps";
import { withOpeningChanged, type Opening } from "./openings";

/** Holes to hang the piece by, slots to stand it on. */
export function OpeningsCard({ document, editing }: Pick<StationProps, "document" | "editing">) {
  const kinds = usePartSchemas().kinds(document, "body.openings");
  const openings: readonly Opening[] = document.body.openings;
  const keep = (label: string, next: readonly unknown[]) => editing.keep(label, patchAt("body.openings", next));
  return (
    <WorkCard title="Holes and slots">
      {openings.map((opening, at) => {
        const part = kinds[opening.kind];
        return (
          part && (
            <OpeningRow
              key={`${at} ${opening.kind}`}
              part={part}
              opening={opening}
              onChange={(what, change) => keep(`${part.heading}, ${what}`, withOpeningChanged(openings, at, change))}
              onRemove={() => keep(`${part.heading} removed`, openings.filter((_, i) => i !== at))}
            />
          )
        );
      })}
      <Dropdown>
        <Dropdown.Toggle variant="outline-secondary" size="sm" className="w-100">
          <i className="bi bi-plus-lg me-1" aria-hidden="true" />
          Add a hole or slot
        </Dropdown.Toggle>
        <FloatingMenu>
          {Object.entries(kinds).map(([kind, { heading, hint, defaults }]) => (
            <Dropdown.Item key={kind} as="button" type="button" title={hint} onClick={() => keep(`${heading} added`, [...openings, defaults])}>
              {heading}
            </Dropdown.Item>
          ))}
        </FloatingMenu>
      </Dropdown>
    </WorkCard>
  );
}

interface RowProps {
  part: PartSchema;
  opening: Opening;
  onChange: (what: string, change: Record<string, unknown>) => void;
  onRemove: () => void;
}

function OpeningRow({ part, opening, onChange, onRemove }: RowProps) {
  const { heading, hint } = part;
  return (
    <section className="opening" aria-label={heading}>
      <StepHead title={heading} on={opening.on} onSwitch={(on) => onChange(on ? "on" : "off", { on })} onRemove={onRemove} removeLabel={`Remove ${heading.toLowerCase()}`} />
      <p className="quiet-label mb-1">{hint}</p>
      <div className="field-pairs">
        <RowFields part={part} row={opening} onKeep={onChange} />
      </div>
    </section>
  );
}
