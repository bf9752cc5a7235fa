import { ShapeCard } from "../../common/ShapeCard";
import type { StationProps } from "../../common/stationProps";
import { BackCard } from "./BackCard";
import { EdgeCard } from "./EdgeCard";
import { FinishCard } from "../../common/FinishCard";
import { FrameCard } from "./FrameCard";
import { OpeningsCard } from "./OpeningsCard";
import { PanelCard } from "./PanelCard";

/** What the object is and how large. */
export function BodyStation(props: StationProps) {
  const { piece, document, editing } = props;
  return (
    <>
      <ShapeCard piece={piece} />
      <PanelCard {...props} />
      <BackCard {...props} />
      <FrameCard {...props} />
      <EdgeCard {...props} />
      <OpeningsCard {...props} />
      <FinishCard
        label="Surface may be off by"
        toleranceMm={document.finish.tolerance_mm}
        editing={editing}
        words="Smaller is truer and heavier. What was really reached is told after the build."
      />
    </>
  );
}
