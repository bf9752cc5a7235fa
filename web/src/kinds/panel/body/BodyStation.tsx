import { WorkCard } from "../../../ui/WorkCard";
import { PartCard } from "../../common/fields/PartCard";
import { PartFields } from "../../common/fields/PartField";
import { FinishCard } from "../../common/fields/FinishCard";
import { ShapeCard } from "../../common/ShapeCard";
import type { StationProps } from "../../common/stationProps";
import { BackCard } from "./BackCard";
import { OpeningsCard } from "./OpeningsCard";
import { PanelCard } from "./PanelCard";

/** What the object is and how large. */
export function BodyStation(props: StationProps) {
  const { piece, document, editing } = props;
  const work = { document, editing };
  return (
    <>
      <ShapeCard piece={piece} />
      <PanelCard {...props} />
      <BackCard {...props} />
      <PartCard {...work} at="body.frame" />
      <WorkCard title="Outer edge">
        <PartFields {...work} at="body.edge" />
      </WorkCard>
      <OpeningsCard {...props} />
      <FinishCard {...work} between label="Surface may be off by" words="Smaller is truer and heavier. What was really reached is told after the build." />
    </>
  );
}
