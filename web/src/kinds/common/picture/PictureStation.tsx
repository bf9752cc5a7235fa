import type { ReactNode } from "react";
import type { PicturedStationProps } from "../stationProps";
import { ExportCard } from "./ExportCard";
import { OpList } from "./OpList";
import { ScreenCard } from "./ScreenCard";
import { SourceCard } from "./SourceCard";
import type { OpsEditing } from "../ops/useOps";

interface Props extends PicturedStationProps {
  ops: OpsEditing;
  /** What a kind of piece shows below its ops. */
  children?: ReactNode;
}

/** The picture, and what is done to it before it becomes heights. */
export function PictureStation({ pieceId, revision, document, ops, children }: Props) {
  return (
    <>
      <OpList pieceId={pieceId} revision={revision} editing={ops} />
      {children}
      <SourceCard document={document} />
      <ExportCard pieceId={pieceId} revision={revision} />
      <ScreenCard />
    </>
  );
}
