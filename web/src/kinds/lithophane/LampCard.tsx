import { useId } from "react";
import Form from "react-bootstrap/Form";
import { WorkCard } from "../../ui/WorkCard";
import { BoundShare } from "../common/bound";
import type { LithophaneStationProps } from "../common/stationProps";

/** The light that the piece is looked at in. */
export function LampCard({ document, editing }: Pick<LithophaneStationProps, "document" | "editing">) {
  const { lamp } = document;
  const id = useId();
  return (
    <WorkCard title="Lamp and room">
      <div className="d-flex align-items-center justify-content-between">
        <label htmlFor={id}>Colour of the lamp</label>
        <Form.Control
          id={id}
          type="color"
          size="sm"
          value={lamp.colour}
          onChange={(event) => editing.keep("Lamp colour", { lamp: { colour: event.currentTarget.value } })}
        />
      </div>
      <BoundShare
        label="Power of the lamp"
        editing={editing}
        at="lamp.power"
        value={lamp.power}
        highest={4}
        to={2}
      />
      <BoundShare
        label="Light of the room"
        editing={editing}
        at="lamp.ambient"
        value={lamp.ambient}
      />
      <p className="quiet-label">At 100 % the lamp makes the thinnest wall white. They change nothing that is made.</p>
    </WorkCard>
  );
}
