import { KindCard } from "../shape/KindCard";
import { WorkCard } from "../../ui/WorkCard";
import { BoundLength } from "../bound";
import type { LithophaneStationProps } from "../stationProps";
import { BorderCard } from "./BorderCard";
import { FormCard } from "./FormCard";
import { PartCards } from "./PartCards";

/** What the wall is bent over, and what holds it. */
export function LithophaneBody(props: LithophaneStationProps) {
  const { document, editing } = props;
  return (
    <>
      <KindCard document={document} editing={editing} />
      <FormCard {...props} />
      <BorderCard {...props} />
      <PartCards {...props} />
      <WorkCard title="Finish">
        <BoundLength
          label="Thickness may be off by"
          editing={editing}
          at="finish.tolerance_mm"
          value={document.finish.tolerance_mm}
          lowest={0.001}
          highest={1}
          slider={{ from: 0.005, to: 0.2 }}
          step={0.005}
        />
        <p className="quiet-label">Square to the form, chords of the bend included. What was really reached is told after the build.</p>
      </WorkCard>
    </>
  );
}
