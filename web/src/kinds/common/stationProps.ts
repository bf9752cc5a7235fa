import type { AnyDocument, FigureDocument, LithophaneDocument, ModelDocument, OutlineDocument, PanelDocument, PicturedDocument, PieceView, WorkedDocument } from "../../api/client";
import type { Editing } from "../../state/useEditing";

interface Shared {
  pieceId: string;
  revision: number;
  editing: Editing;
}

interface Shaped extends Shared {
  piece: PieceView;
}

/** For stations of relief panels. */
export interface StationProps extends Shaped {
  document: PanelDocument;
}

/** For stations of pieces that start from a model. */
export interface ModelStationProps extends Shared {
  document: ModelDocument;
}

/** For stations of pieces whose mesh is worked on. */
export interface WorkedStationProps extends Shared {
  document: WorkedDocument;
}

/** For stations of pieces made of outlines. */
export interface OutlineStationProps extends Shaped {
  document: OutlineDocument;
}

/** For stations of lithophanes. */
export interface LithophaneStationProps extends Shaped {
  document: LithophaneDocument;
}

/** For stations of figures. */
export interface FigureStationProps extends Shaped {
  document: FigureDocument;
}

/** For stations of any piece that starts from a picture. */
export interface PicturedStationProps extends Shared {
  document: PicturedDocument;
}

/** For stations of any piece. */
export interface AnyStationProps extends Shared {
  document: AnyDocument;
}
