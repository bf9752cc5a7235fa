import { KindCard } from "../shape/KindCard";
import { WorkCard } from "../../ui/WorkCard";
import { BoundLength } from "../bound";
import type { StationProps } from "../stationProps";
import { BackCard } from "./BackCard";
import { EdgeCard } from "./EdgeCard";
import { FrameCard } from "./FrameCard";
import { OpeningsCard } from "./OpeningsCard";
import { PanelCard } from "./PanelCard";

/** What the object is and how large. */
export function BodyStation(props: StationProps) {
  const { document, editing } = props;
  return (
    <>
      <KindCard document={document} editing={editing} />
      <PanelCard {...props} />
      <BackCard {...props} />
      <FrameCard {...props} />
      <EdgeCard {...props} />
      <OpeningsCard {...props} />
      <WorkCard title="Finish">
        <BoundLength
          label="Surface may be off by"
          editing={editing}
          at="finish.tolerance_mm"
          value={document.finish.tolerance_mm}
          lowest={0.001}
          highest={1}
          slider={{ from: 0.005, to: 0.2 }}
          step={0.005}
        />
        <p className="quiet-label">Smaller is truer and heavier. What was really reached is told after the build.</p>
      </WorkCard>
    </>
  );
}
