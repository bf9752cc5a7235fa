import type { PieceDocument } from "../api/client";
import type { Editing } from "../bench/useEditing";

export interface StationProps {
  pieceId: string;
  revision: number;
  document: PieceDocument;
  editing: Editing;
}
