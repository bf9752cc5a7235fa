import { WorkCard } from "../../../ui/WorkCard";
import type { OutlinesView } from "../../../api/client";
import { BoundLength } from "../../common/bound";
import type { OutlineStationProps } from "../../common/stationProps";
import { CutterCards } from "./CutterCards";
import { ShapeCard } from "../../common/ShapeCard";
import { RaisedCards } from "./RaisedCards";
import { StampCards } from "./StampCards";

interface Props extends OutlineStationProps {
  view: OutlinesView | undefined;
}

/** What the outlines become. */
export function ShapeStation({ piece, document, editing, view }: Props) {
  const { solid } = document;
  return (
    <>
      <ShapeCard piece={piece} />
      {solid.kind === "raised" && <RaisedCards solid={solid} editing={editing} layers={view?.layers ?? []} />}
      {solid.kind === "cutter" && <CutterCards solid={solid} editing={editing} layers={view?.layers ?? []} />}
      {solid.kind === "stamp" && <StampCards solid={solid} editing={editing} />}
      <WorkCard title="Finish">
        <BoundLength label="Curves may be off by" editing={editing} at="finish.tolerance_mm" value={document.finish?.tolerance_mm ?? 0.01} lowest={0.0005} highest={1} slider={{ from: 0.002, to: 0.1 }} step={0.002} />
        <p className="quiet-label">Smaller is truer and heavier. What was really reached is told after the build.</p>
      </WorkCard>
    </>
  );
}
