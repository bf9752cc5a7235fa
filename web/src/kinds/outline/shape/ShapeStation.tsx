import type { OutlinesView } from "../../../api/client";
import { FinishCard } from "../../common/fields/FinishCard";
import { ShapeCard } from "../../common/ShapeCard";
import type { OutlineStationProps } from "../../common/stationProps";
import { CutterCards } from "./CutterCards";
import { RaisedCards } from "./RaisedCards";
import { StampCards } from "./StampCards";

interface Props extends OutlineStationProps {
  view: OutlinesView | undefined;
}

/** What the outlines become. */
export function ShapeStation({ piece, document, editing, view }: Props) {
  const { solid } = document;
  const work = { document, editing };
  const layers = view?.layers ?? [];
  return (
    <>
      <ShapeCard piece={piece} />
      {solid.kind === "raised" && <RaisedCards {...work} solid={solid} layers={layers} />}
      {solid.kind === "cutter" && <CutterCards {...work} solid={solid} layers={layers} />}
      {solid.kind === "stamp" && <StampCards {...work} solid={solid} />}
      <FinishCard {...work} words="Smaller is truer and heavier. What was really reached is told after the build." />
    </>
  );
}
