import Dropdown from "react-bootstrap/Dropdown";
import { LengthField } from "../../../ui/LengthField";
import { NumberField } from "../../../ui/NumberField";
import { StepHead } from "../../../ui/StepHead";
import { WorkCard } from "../../../ui/WorkCard";
import { patchAt } from "../../common/patchAt";
import type { StationProps } from "../../common/stationProps";
import { OPENINGS, withOpeningChanged, type Opening, type OpeningKind } from "./openingKinds";

const FIXED = { strategy: "fixed" } as const;

/** Holes to hang the piece by, slots to stand it on. */
export function OpeningsCard({ document, editing }: Pick<StationProps, "document" | "editing">) {
  const openings: readonly Opening[] = document.body.openings;
  const list = (next: readonly unknown[]) => patchAt("body.openings", next);
  return (
    <WorkCard title="Holes and slots">
      {openings.map((opening, at) => (
        <OpeningRow
          key={`${at} ${opening.kind}`}
          opening={opening}
          onChange={(what, change) => editing.keep(`${OPENINGS[opening.kind].title}, ${what}`, list(withOpeningChanged(openings, at, change)))}
          onRemove={() => editing.keep(`${OPENINGS[opening.kind].title} removed`, list(openings.filter((_, i) => i !== at)))}
        />
      ))}
      <Dropdown>
        <Dropdown.Toggle variant="outline-secondary" size="sm" className="w-100">
          <i className="bi bi-plus-lg me-1" aria-hidden="true" />
          Add a hole or slot
        </Dropdown.Toggle>
        <Dropdown.Menu popperConfig={FIXED}>
          {(Object.keys(OPENINGS) as OpeningKind[]).map((kind) => (
            <Dropdown.Item
              key={kind}
              as="button"
              type="button"
              title={OPENINGS[kind].hint}
              onClick={() => editing.keep(`${OPENINGS[kind].title} added`, list([...openings, { kind, on: true }]))}
            >
              {OPENINGS[kind].title}
            </Dropdown.Item>
          ))}
        </Dropdown.Menu>
      </Dropdown>
    </WorkCard>
  );
}

interface RowProps {
  opening: Opening;
  onChange: (what: string, change: Record<string, unknown>) => void;
  onRemove: () => void;
}

function OpeningRow({ opening, onChange, onRemove }: RowProps) {
  const { title, hint, fields } = OPENINGS[opening.kind];
  const values = opening as unknown as Record<string, number>;
  return (
    <section className="opening" aria-label={title}>
      <StepHead title={title} on={opening.on} onSwitch={(on) => onChange(on ? "on" : "off", { on })} onRemove={onRemove} removeLabel={`Remove ${title.toLowerCase()}`} />
      <p className="quiet-label mb-1">{hint}</p>
      <div className="field-pairs">
        {fields.map(({ name, label, angle, ...limits }) => {
          const shared = { label, value: values[name] ?? 0, onKeep: (value: number) => onChange(`${label.toLowerCase()} ${value}`, { [name]: value }), ...limits };
          return angle ? <NumberField key={name} unit="°" {...shared} /> : <LengthField key={name} {...shared} />;
        })}
      </div>
    </section>
  );
}
