import { useState } from "react";
import Form from "react-bootstrap/Form";
import { useMaterials } from "../../api/materials";
import type { TranslucentMaterial } from "../../api/client";
import { Button } from "../../ui/Button";
import { WorkCard } from "../../ui/WorkCard";
import { PartField } from "../common/fields/PartField";
import type { LithophaneStationProps } from "../common/stationProps";
import { CalibrationDialog } from "./CalibrationDialog";

/** What it is made of: a row of the table, and its values as they are for this piece. */
export function MaterialCard(props: LithophaneStationProps) {
  const { document, editing } = props;
  const { material } = document.glow;
  const { materials, add, change, drop } = useMaterials();
  const [measuring, setMeasuring] = useState(false);
  const row = materials.find((each) => each.name === material.name);
  const spread = document.glow.spread_mm;
  const edited = row && !(same(row, material) && row.spread_mm === spread);
  const use = (chosen: TranslucentMaterial, spreadMm: number | null) => {
    const { name, attenuation_per_mm, surface_loss, cast } = chosen;
    const glow = { material: { name, attenuation_per_mm, surface_loss, cast }, ...(spreadMm === null ? {} : { spread_mm: spreadMm }) };
    editing.keep(`Material ${name}`, { glow });
  };
  return (
    <WorkCard title="Material">
      <Form.Select
        size="sm"
        aria-label="Material"
        value={material.name}
        onChange={(event) => {
          const chosen = materials.find((each) => each.name === event.currentTarget.value);
          if (chosen) use(chosen, chosen.spread_mm);
        }}
      >
        {!row && <option value={material.name}>{material.name}</option>}
        {materials.map((each) => (
          <option key={each.id} value={each.name}>
            {each.name}
            {each.measured ? " (measured)" : ""}
          </option>
        ))}
      </Form.Select>
      {["attenuation_per_mm", "surface_loss", "cast"].map((name) => (
        <PartField key={name} document={document} editing={editing} at={`glow.material.${name}`} />
      ))}
      {["spread_mm", "sharpen"].map((name) => (
        <PartField key={name} document={document} editing={editing} at={`glow.${name}`} />
      ))}
      {edited && (
        <div className="d-flex gap-2">
          <Button size="sm" variant="outline-secondary" onClick={() => change.mutate({ ...row, ...material, spread_mm: spread })}>
            Set in the table
          </Button>
          <Button size="sm" variant="outline-secondary" onClick={() => use(row, row.spread_mm)}>
            As in the table
          </Button>
        </div>
      )}
      {!row && (
        <Button size="sm" variant="outline-secondary" onClick={() => add.mutate({ ...material, measured: false, spread_mm: spread })}>
          Keep in the table
        </Button>
      )}
      <div className="d-flex gap-2">
        <Button size="sm" variant="outline-secondary" onClick={() => setMeasuring(true)}>
          Measure a material
        </Button>
        {row && materials.length > 1 && (
          <Button size="sm" variant="outline-secondary" onClick={() => drop.mutate(row.id)}>
            Drop from the table
          </Button>
        )}
      </div>
      {(add.error ?? change.error) && (
        <p className="measure-refusal" role="alert">
          {(add.error ?? change.error)?.message}
        </p>
      )}
      <CalibrationDialog show={measuring} onHide={() => setMeasuring(false)} material={material} onUse={use} />
    </WorkCard>
  );
}

function same(one: TranslucentMaterial, other: TranslucentMaterial): boolean {
  return one.attenuation_per_mm === other.attenuation_per_mm && one.surface_loss === other.surface_loss && one.cast === other.cast;
}
