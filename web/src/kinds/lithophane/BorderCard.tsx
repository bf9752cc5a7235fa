import { useState } from "react";
import Form from "react-bootstrap/Form";
import { usePartSchemas } from "../../state/partSchemas";
import { Choice } from "../../ui/Choice";
import { PartCard } from "../common/fields/PartCard";
import { PartField } from "../common/fields/PartField";
import type { LithophaneStationProps } from "../common/stationProps";
import { isRound } from "./forms";

const SIDES = ["left", "right", "top", "bottom"] as const;
const CUT = [
  { value: "sunk", label: "Sunk" },
  { value: "raised", label: "Raised" },
] as const;

/** A plain rim round the picture, to grip it by, and a name on it. */
export function BorderCard({ document, editing }: LithophaneStationProps) {
  const { name } = document.parts;
  const most = usePartSchemas().field(document, "parts.name.text").most ?? undefined;
  const work = { document, editing };
  const sides = SIDES.filter((side) => !isRound(document.form.kind) || side === "top" || side === "bottom");
  return (
    <PartCard {...work} at="parts.rim">
      <PartField {...work} at="parts.rim.width_mm" />
      <PartField {...work} at="parts.rim.thickness_mm" />
      <div className="d-flex flex-wrap gap-3">
        {sides.map((side) => (
          <PartField key={side} {...work} at={`parts.rim.${side}`} />
        ))}
      </div>
      <NameField text={name.text} most={most} onKeep={(text) => editing.keep("Name", { parts: { name: { on: text !== "", text } } })} />
      {name.on && (
        <>
          <PartField {...work} at="parts.name.side" />
          <PartField {...work} at="parts.name.height_mm" />
          <PartField {...work} at="parts.name.depth_mm" />
          <Choice
            label="Letters"
            value={name.sunk ? "sunk" : "raised"}
            options={CUT}
            onChange={(cut) => editing.keep(`Letters ${cut}`, { parts: { name: { sunk: cut === "sunk" } } })}
          />
        </>
      )}
    </PartCard>
  );
}

function NameField({ text, most, onKeep }: { text: string; most?: number; onKeep: (text: string) => void }) {
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
        maxLength={most}
        value={typed ?? text}
        onChange={(event) => setTyped(event.currentTarget.value)}
        onBlur={keep}
        onKeyDown={(event) => event.key === "Enter" && keep()}
      />
    </Form.Group>
  );
}
