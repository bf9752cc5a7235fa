import { FinishCard } from "../common/FinishCard";
import { ShapeCard } from "../common/ShapeCard";
import type { LithophaneStationProps } from "../common/stationProps";
import { BorderCard } from "./BorderCard";
import { FormCard } from "./FormCard";
import { PartCards } from "./PartCards";

/** What the wall is bent over, and what holds it. */
export function LithophaneBody(props: LithophaneStationProps) {
  const { piece, document, editing } = props;
  return (
    <>
      <ShapeCard piece={piece} />
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
