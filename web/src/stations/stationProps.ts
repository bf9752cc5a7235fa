import type { AnyDocument, LithophaneDocument, ModelDocument, OutlineDocument, PieceDocument, TracedDocument } from "../api/client";
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

/** For stations of pieces made of outlines. */
export interface OutlineStationProps extends Shared {
  document: OutlineDocument;
}

/** For stations of lithophanes. */
export interface LithophaneStationProps extends Shared {
  document: LithophaneDocument;
}

/** For stations of any piece that starts from a picture. */
export interface PicturedStationProps extends Shared {
  document: PieceDocument | LithophaneDocument | TracedDocument;
}

/** For stations of any piece. */
export interface AnyStationProps extends Shared {
  document: AnyDocument;
}
