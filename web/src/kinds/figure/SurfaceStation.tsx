import type { FigureStationProps } from "../common/stationProps";
import { DecorateCards } from "../common/decorate/DecorateCards";
import { StepsCard } from "../common/steps/StepsCard";

/** What is done to the finished figure: decorations on its skin, steps that cut it or make it anew. */
export function SurfaceStation(props: FigureStationProps) {
  return (
    <>
      <DecorateCards {...props} />
      <StepsCard {...props} />
    </>
  );
}
