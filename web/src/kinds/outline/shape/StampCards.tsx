import type { OutlineSolid } from "../../../api/client";
import { WorkCard } from "../../../ui/WorkCard";
import { PartField, type Work } from "../../common/fields/PartField";
import { PlateFields } from "./PlateFields";

type Stamp = Extract<OutlineSolid, { kind: "stamp" }>;

/** Face, plate and grip. */
export function StampCards({ solid, ...work }: Work & { solid: Stamp }) {
  return (
    <>
      <WorkCard title="Face">
        <PartField {...work} at="solid.relief_mm" />
        <PartField {...work} at="solid.draft_deg" />
        <PartField {...work} at="solid.mirror" />
      </WorkCard>
      <WorkCard title="Plate">
        <PlateFields {...work} base={solid.plate} at="solid.plate" />
      </WorkCard>
      <WorkCard title="Grip">
        <PartField {...work} at="solid.grip" />
        <PartField {...work} at="solid.grip_mm" />
      </WorkCard>
    </>
  );
}
