import Form from "react-bootstrap/Form";
import type { OutlineSolid } from "../../../api/client";
import type { Editing } from "../../../state/useEditing";
import { WorkCard } from "../../../ui/WorkCard";
import { BoundChoice, BoundLength, BoundNumber, switchAt } from "../../common/bound";
import { BaseFields } from "./BaseFields";

type Stamp = Extract<OutlineSolid, { kind: "stamp" }>;

const GRIPS = [
  { value: "none", label: "None" },
  { value: "knob", label: "Knob" },
  { value: "bar", label: "Bar" },
] as const;

/** Face, plate and grip. */
export function StampCards({ solid, editing }: { solid: Stamp; editing: Editing }) {
  const mirror = switchAt(editing, "Mirrored", "solid.mirror");
  return (
    <>
      <WorkCard title="Face">
        <BoundLength label="Relief" editing={editing} at="solid.relief_mm" value={solid.relief_mm} lowest={0.1} highest={50} slider={{ from: 0.4, to: 6 }} step={0.1} />
        <BoundNumber label="Flanks lean" editing={editing} at="solid.draft_deg" value={solid.draft_deg} unit="°" lowest={0} highest={45} slider={{ from: 0, to: 30 }} step={1} />
        <Form.Check id="stamp-mirror" type="switch" label="Mirrored, so that its print reads right" checked={solid.mirror} onChange={(event) => mirror(event.currentTarget.checked)} />
      </WorkCard>
      <WorkCard title="Plate">
        <BaseFields base={solid.plate} editing={editing} at="solid.plate" />
      </WorkCard>
      <WorkCard title="Grip">
        <BoundChoice label="Behind the plate" editing={editing} at="solid.grip" value={solid.grip} options={GRIPS} />
        {solid.grip !== "none" && (
          <BoundLength label="Grip height" editing={editing} at="solid.grip_mm" value={solid.grip_mm} lowest={2} highest={200} slider={{ from: 6, to: 40 }} step={1} />
        )}
      </WorkCard>
    </>
  );
}
