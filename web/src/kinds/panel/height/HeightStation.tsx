import type { StationProps } from "../../common/stationProps";
import { CutCard, MaskCard } from "./PlaceCards";
import { RuleCard } from "./RuleCard";
import { DraftCard, RoundingCard, SmoothingCard } from "./SurfaceCards";

/** Which tone stands how tall, and what the surface may be like. */
export function HeightStation(props: StationProps) {
  return (
    <>
      <RuleCard {...props} />
      <SmoothingCard {...props} />
      <CutCard {...props} />
      <DraftCard {...props} />
      <RoundingCard {...props} />
      <MaskCard {...props} />
    </>
  );
}
