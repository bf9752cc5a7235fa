import { useState } from "react";
import Form from "react-bootstrap/Form";
import { Choice } from "../../ui/Choice";
import { WorkCard } from "../../ui/WorkCard";
import { BoundChoice, BoundLength, switchAt } from "../common/bound";
import type { LithophaneStationProps } from "../common/stationProps";

const SIDES = ["left", "right", "top", "bottom"] as const;
const NAME_SIDES = [
  { value: "bottom", label: "Below" },
  { value: "top", label: "Above" },
] as const;
const CUT = [
  { value: "sunk", label: "Sunk" },
  { value: "raised", label: "Raised" },
] as const;

/** A plain rim round the picture, to grip it by, and a name on it. */
export function BorderCard({ document, editing }: LithophaneStationProps) {
  const { rim, name } = document.parts;
  const round = document.form.kind !== "flat" && document.form.kind !== "arc";
  return (
    <WorkCard title="Border" on={rim.on} onSwitch={switchAt(editing, "Border", "parts.rim.on")}>
      {rim.on && (
        <>
          <BoundLength
            label="Border width"
            editing={editing}
            at="parts.rim.width_mm"
            value={rim.width_mm}
            lowest={0.2}
            highest={200}
            slider={{ from: 0.5, to: 20 }}
            step={0.5}
          />
          <BoundLength
            label="Border thickness"
            editing={editing}
            at="parts.rim.thickness_mm"
            value={rim.thickness_mm}
            lowest={0.2}
            highest={60}
            slider={{ from: 0.5, to: 10 }}
            step={0.1}
          />
          <div className="d-flex flex-wrap gap-3">
            {SIDES.filter((side) => !round || side === "top" || side === "bottom").map((side) => (
              <Form.Check
                key={side}
                id={`rim-${side}`}
                label={side[0]?.toUpperCase() + side.slice(1)}
                checked={rim[side]}
                onChange={(event) => switchAt(editing, `Border ${side}`, `parts.rim.${side}`)(event.currentTarget.checked)}
              />
            ))}
          </div>
          <NameField text={name.text} onKeep={(text) => editing.keep("Name", { parts: { name: { on: text !== "", text } } })} />
          {name.on && (
            <>
              <BoundChoice label="Where the name is" editing={editing} at="parts.name.side" value={name.side} options={NAME_SIDES} />
              <BoundLength
                label="Letter height"
                editing={editing}
                at="parts.name.height_mm"
                value={name.height_mm}
                lowest={0.4}
                highest={100}
                slider={{ from: 1, to: 15 }}
                step={0.1}
              />
              <BoundLength
                label="Letter depth"
                editing={editing}
                at="parts.name.depth_mm"
                value={name.depth_mm}
                lowest={0.05}
                highest={20}
                slider={{ from: 0.1, to: 3 }}
                step={0.1}
              />
              <Choice
                label="Letters"
                value={name.sunk ? "sunk" : "raised"}
                options={CUT}
                onChange={(cut) => editing.keep(`Letters ${cut}`, { parts: { name: { sunk: cut === "sunk" } } })}
              />
            </>
          )}
        </>
      )}
    </WorkCard>
  );
}

function NameField({ text, onKeep }: { text: string; onKeep: (text: string) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    if (typed !== null && typed !== text) onKeep(typed);
    setTyped(null);
  };
  return (
    <Form.Group controlId="rim-name">
      <Form.Label className="mb-1">Name on the border</Form.Label>
      <Form.Control
        size="sm"
        type="text"
        maxLength={200}
        value={typed ?? text}
        onChange={(event) => setTyped(event.currentTarget.value)}
        onBlur={keep}
        onKeyDown={(event) => event.key === "Enter" && keep()}
      />
    </Form.Group>
  );
}
