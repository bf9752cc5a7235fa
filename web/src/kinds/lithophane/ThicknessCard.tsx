import { useState } from "react";
import { Button } from "../../ui/Button";
import { WorkCard } from "../../ui/WorkCard";
import { ChoiceHint } from "../common/fields/PartCard";
import { PartField } from "../common/fields/PartField";
import type { LithophaneStationProps } from "../common/stationProps";
import { VariationsDialog } from "./VariationsDialog";

/** From tones to thickness. */
export function ThicknessCard(props: LithophaneStationProps) {
  const { document, editing } = props;
  const [varied, setVaried] = useState(false);
  return (
    <WorkCard title="Tone to thickness">
      {["rule", "tones", "thinnest_mm", "thickest_mm", "beyond", "strength"].map((name) => (
        <PartField key={name} document={document} editing={editing} at={`glow.${name}`} />
      ))}
      <ChoiceHint document={document} at="glow.rule" />
      <Button size="sm" variant="outline-secondary" onClick={() => setVaried(true)}>
        <i className="bi bi-grid-3x3 me-2" aria-hidden="true" />
        Compare nine variations
      </Button>
      <VariationsDialog {...props} show={varied} onHide={() => setVaried(false)} />
    </WorkCard>
  );
}
