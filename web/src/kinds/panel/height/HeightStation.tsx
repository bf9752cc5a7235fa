import { PartCard } from "../../common/fields/PartCard";
import type { StationProps } from "../../common/stationProps";
import { MaskCard } from "./MaskCard";
import { RuleCard } from "./RuleCard";
import { SmoothingCard } from "./SmoothingCard";

/** Which tone stands how tall, and what the surface may be like. */
export function HeightStation(props: StationProps) {
  const { document, editing } = props;
  const work = { document, editing };
  return (
    <>
      <RuleCard {...props} />
      <SmoothingCard {...props} />
      <PartCard {...work} at="height.edges" />
      <PartCard {...work} at="height.cut" />
      <PartCard {...work} at="height.draft" />
      <PartCard {...work} at="height.rounding" />
      <MaskCard {...props} />
    </>
  );
}
