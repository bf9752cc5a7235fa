import type { LithophaneStationProps } from "../common/stationProps";
import { PartCard } from "../common/fields/PartCard";
import { ModellingCard } from "../common/modelling/ModellingCard";
import { ColourCard } from "./ColourCard";
import { LampCard } from "./LampCard";
import { LitCard } from "./LitCard";
import { MaterialCard } from "./MaterialCard";
import { ThicknessCard } from "./ThicknessCard";

/** How thick the wall is for each tone, and what is seen of it in light. */
export function LightStation(props: LithophaneStationProps) {
  return (
    <>
      <ThicknessCard {...props} />
      <MaterialCard {...props} />
      <ColourCard {...props} />
      <PartCard document={props.document} editing={props.editing} at="edges" />
      <LampCard {...props} />
      <ModellingCard document={props.document} editing={props.editing} at="hand.strokes" onModel={false} />
      <LitCard pieceId={props.pieceId} revision={props.revision} />
    </>
  );
}
