import Form from "react-bootstrap/Form";
import { WorkCard } from "../../../ui/WorkCard";
import { BoundLength, BoundNumber, switchAt } from "../../common/bound";
import type { StationProps } from "../../common/stationProps";

/** What is done to the outer edge. */
export function EdgeCard({ document, editing }: Pick<StationProps, "document" | "editing">) {
  const { edge } = document.body;
  const bevel = switchAt(editing, "Bevel", "body.edge.bevel_on");
  const lean = switchAt(editing, "Leaning outer walls", "body.edge.draft_on");
  return (
    <WorkCard title="Outer edge">
      <Form.Check
        id="edge-bevel"
        type="switch"
        label="Bevelled"
        checked={edge.bevel_on}
        onChange={(event) => bevel(event.currentTarget.checked)}
      />
      {edge.bevel_on && (
        <BoundLength
          label="Bevel"
          editing={editing}
          at="body.edge.bevel_mm"
          value={edge.bevel_mm}
          lowest={0.05}
          highest={50}
          slider={{ from: 0.1, to: 6 }}
          step={0.1}
        />
      )}
      <Form.Check
        id="edge-draft"
        type="switch"
        label="Walls lean inwards"
        checked={edge.draft_on}
        onChange={(event) => lean(event.currentTarget.checked)}
      />
      {edge.draft_on && (
        <BoundNumber
          label="Lean"
          editing={editing}
          at="body.edge.draft_deg"
          value={edge.draft_deg}
          unit="°"
          lowest={0.5}
          highest={45}
          slider={{ from: 0.5, to: 30 }}
          step={0.5}
        />
      )}
    </WorkCard>
  );
}
