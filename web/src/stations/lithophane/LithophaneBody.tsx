import { FinishCard } from "../body/FinishCard";
import { KindCard } from "../shape/KindCard";
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
      <FinishCard
        label="Thickness may be off by"
        toleranceMm={document.finish.tolerance_mm}
        editing={editing}
        words="Square to the form, chords of the bend included. What was really reached is told after the build."
      />
    </>
  );
}
