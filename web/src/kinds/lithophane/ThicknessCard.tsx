import { useState } from "react";
import { Button } from "../../ui/Button";
import { WorkCard } from "../../ui/WorkCard";
import { BoundChoice, BoundLength, BoundShare } from "../common/bound";
import type { LithophaneStationProps } from "../common/stationProps";
import { VariationsDialog } from "./VariationsDialog";

const RULES = [
  { value: "light", label: "True to light" },
  { value: "straight", label: "Straight" },
] as const;
const BEYOND = [
  { value: "compress", label: "Move all closer" },
  { value: "clip", label: "Cut off" },
] as const;

/** From tones to thickness. */
export function ThicknessCard(props: LithophaneStationProps) {
  const { document, editing } = props;
  const { glow } = document;
  const [varied, setVaried] = useState(false);
  return (
    <WorkCard title="Tone to thickness">
      <BoundChoice label="How does thickness follow tone?" editing={editing} at="glow.rule" value={glow.rule} options={RULES} />
      <BoundLength
        label="Thinnest wall, for white"
        editing={editing}
        at="glow.thinnest_mm"
        value={glow.thinnest_mm}
        lowest={0.2}
        highest={20}
        slider={{ from: 0.2, to: 3 }}
        step={0.05}
      />
      <BoundLength
        label="Thickest wall"
        editing={editing}
        at="glow.thickest_mm"
        value={glow.thickest_mm}
        lowest={0.3}
        highest={40}
        slider={{ from: 1, to: 8 }}
        step={0.1}
      />
      {glow.rule === "light" && (
        <>
          <BoundChoice label="Tones darker than that can show" editing={editing} at="glow.beyond" value={glow.beyond} options={BEYOND} />
          <BoundShare
            label="Strength against the straight rule"
            editing={editing}
            at="glow.strength"
            value={glow.strength}
          />
        </>
      )}
      <p className="quiet-label">
        {glow.rule === "light"
          ? "Each wall is as thick as the material needs for its tone to appear when lit."
          : "Thickness falls evenly from black to white; lit, middle tones come out too dark."}
      </p>
      <Button size="sm" variant="outline-secondary" onClick={() => setVaried(true)}>
        <i className="bi bi-grid-3x3 me-2" aria-hidden="true" />
        Compare nine variations
      </Button>
      <VariationsDialog {...props} show={varied} onHide={() => setVaried(false)} />
    </WorkCard>
  );
}
