import { CompareCard } from "../../common/depth/CompareCard";
import { DepthCard } from "../../common/depth/DepthCard";
import { HandCard } from "../../common/depth/HandCard";
import { OrderCard } from "../../common/depth/OrderCard";
import { PartCard } from "../../common/fields/PartCard";
import { ModellingCard } from "../../common/modelling/ModellingCard";
import type { StationProps } from "../../common/stationProps";
import { FineCard, ShallowCard } from "./FormCards";
import { LaidCard } from "./laid/LaidCard";
import { MaskCard } from "./MaskCard";
import { RuleCard } from "./RuleCard";
import { SmoothingCard } from "./SmoothingCard";

/** Which tone stands how tall, or how near everything is; and what the surface may be like. */
export function HeightStation(props: StationProps) {
  const { document, editing } = props;
  const work = { document, editing };
  const { of } = document.height.form;
  return (
    <>
      {of === "tones" ? (
        <RuleCard {...props} />
      ) : (
        <>
          <ShallowCard {...props} />
          {of === "both" && <FineCard {...props} />}
          <DepthCard {...props} at="height.form" />
          <HandCard {...props} at="height.form" />
          <OrderCard {...props} at="height.form" />
          <CompareCard {...props} at="height.form" />
        </>
      )}
      <LaidCard {...props} />
      <ModellingCard {...work} at="height.hand.strokes" />
      <SmoothingCard {...props} />
      <PartCard {...work} at="height.texture" />
      <PartCard {...work} at="height.edges" />
      <PartCard {...work} at="height.cut" />
      <PartCard {...work} at="height.draft" />
      <PartCard {...work} at="height.rounding" />
      <MaskCard {...props} />
    </>
  );
}
