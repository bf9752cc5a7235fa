import { isPanel } from "../../api/client";
import type { PicturedStationProps } from "../stationProps";
import { ExportCard } from "./ExportCard";
import { HistogramCard } from "./HistogramCard";
import { OpList } from "./OpList";
import { ScreenCard } from "./ScreenCard";
import { SourceCard } from "./SourceCard";
import type { OpsEditing } from "./useOps";

interface Props extends PicturedStationProps {
  ops: OpsEditing;
}

/** The picture, and what is done to it before it becomes heights. */
export function PictureStation({ pieceId, revision, document, ops }: Props) {
  return (
    <>
      <OpList pieceId={pieceId} revision={revision} editing={ops} />
      {isPanel(document) && <HistogramCard document={document} />}
      <SourceCard document={document} />
      <ExportCard pieceId={pieceId} revision={revision} />
      <ScreenCard />
    </>
  );
}
