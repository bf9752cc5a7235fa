import { WorkCard } from "../../ui/WorkCard";
import { PartFields } from "../common/fields/PartField";
import type { LithophaneStationProps } from "../common/stationProps";

/** The light that the piece is looked at in. */
export function LampCard({ document, editing }: Pick<LithophaneStationProps, "document" | "editing">) {
  return (
    <WorkCard title="Lamp and room">
      <PartFields document={document} editing={editing} at="lamp" />
      <p className="quiet-label">At 100 % the lamp makes the thinnest wall white. They change nothing that is made.</p>
    </WorkCard>
  );
}
