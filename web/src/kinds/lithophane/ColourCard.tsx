import { useId, useState } from "react";
import Form from "react-bootstrap/Form";
import { encoded } from "../../views/transmission";
import { PartCard } from "../common/fields/PartCard";
import { PartFields } from "../common/fields/PartField";
import type { LithophaneStationProps } from "../common/stationProps";
import { bandsIn } from "./colourTable";

/** Tinted layers behind the wall, what each lets through, and where it lies. */
export function ColourCard({ document, editing }: LithophaneStationProps) {
  const { colours, form } = document;
  const work = { document, editing };
  return (
    <PartCard {...work} at="colours">
      {form.kind !== "flat" && <p className="quiet-label">Only a flat wall has them; this form is made without.</p>}
      <PartFields {...work} at="colours" without={["table"]} />
      <ol className="list-unstyled d-grid gap-1 mb-0" aria-label="Colours, lowest first">
        {bandsIn(colours.table).map(({ name, passed }, at) => (
          <li key={name} className="d-flex align-items-center gap-2">
            <span className="part-swatch" style={{ background: shownAs(passed) }} aria-hidden="true" />
            {name}
            <span className="quiet-label ms-auto">
              layers {at * colours.layers + 1} to {(at + 1) * colours.layers}
            </span>
          </li>
        ))}
      </ol>
      <TableField value={colours.table} onKeep={(table) => editing.keep("Table of colours", { colours: { table } })} />
    </PartCard>
  );
}

/** The measured table as lines of text; kept when it is left. */
function TableField({ value, onKeep }: { value: string; onKeep: (table: string) => void }) {
  const id = useId();
  const [typed, setTyped] = useState<string | null>(null);
  return (
    <details>
      <summary>Measured table</summary>
      <label htmlFor={id} className="quiet-label mb-1">
        Name, mm, and the shares of red, green and blue light that pass such a layer
      </label>
      <Form.Control
        id={id}
        as="textarea"
        size="sm"
        rows={7}
        spellCheck={false}
        className="font-monospace"
        value={typed ?? value}
        onChange={(event) => setTyped(event.currentTarget.value)}
        onBlur={() => {
          if (typed !== null && typed !== value) onKeep(typed);
          setTyped(null);
        }}
      />
    </details>
  );
}

function shownAs(passed: readonly number[]): string {
  const largest = Math.max(...passed, 1e-6);
  return `rgb(${passed.map((share) => Math.round(255 * encoded(share / largest))).join(" ")})`;
}
