import { PartCard } from "../common/fields/PartCard";
import { FinishCard } from "../common/fields/FinishCard";
import { ShapeCard } from "../common/ShapeCard";
import type { LithophaneStationProps } from "../common/stationProps";
import { BorderCard } from "./BorderCard";
import { FormCard } from "./FormCard";
import { isRound } from "./forms";

/** Parts that every form has room for, and those that need one that runs round, or one that does not. */
const ROUND_PARTS = ["foot", "flat", "bottom", "lid", "hole"] as const;
const FLAT_PARTS = ["foot", "rails", "clip", "hole"] as const;

/** What the wall is bent over, and what holds it. */
export function LithophaneBody(props: LithophaneStationProps) {
  const { piece, document, editing } = props;
  const work = { document, editing };
  return (
    <>
      <ShapeCard piece={piece} />
      <FormCard {...props} />
      <BorderCard {...props} />
      {(isRound(document.form.kind) ? ROUND_PARTS : FLAT_PARTS).map((part) => (
        <PartCard key={part} {...work} at={`parts.${part}`} hint="off" />
      ))}
      <FinishCard {...work} between={document.form.kind === "flat"} label="Thickness may be off by" words="Square to the form, chords of the bend included. What was really reached is told after the build." />
    </>
  );
}
