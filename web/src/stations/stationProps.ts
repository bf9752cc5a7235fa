import type { AnyDocument, ModelDocument, PieceDocument } from "../api/client";
import type { Editing } from "../bench/useEditing";

interface Shared {
  pieceId: string;
  revision: number;
  editing: Editing;
}

/** For stations of pieces that start from a picture. */
export interface StationProps extends Shared {
  document: PieceDocument;
}

/** For stations of pieces that start from a model. */
export interface ModelStationProps extends Shared {
  document: ModelDocument;
}

/** For stations of any piece. */
export interface AnyStationProps extends Shared {
  document: AnyDocument;
}
