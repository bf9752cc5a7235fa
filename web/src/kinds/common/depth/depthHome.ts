import type { FigureDocument, PanelDocument } from "../../../api/client";
import type { Editing } from "../../../state/useEditing";
import { valueAt } from "../fields/valueAt";

/** Where in a document its depth stands, with strokes and parts in order beside it. */
export type DepthPlace = "figure" | "height.form";

export type DepthDocument = FigureDocument | PanelDocument;

/** What is said of a depth, whatever kind of piece has it. */
export interface DepthHome {
  depth: PanelDocument["height"]["form"]["depth"];
  strokes: FigureDocument["figure"]["strokes"];
  order: FigureDocument["figure"]["order"];
}

/** For cards and tools of a depth. */
export interface DepthWork {
  pieceId: string;
  revision: number;
  document: DepthDocument;
  editing: Editing;
  at: DepthPlace;
}

/** The depth of a document. */
export function depthIn(document: DepthDocument, at: DepthPlace): DepthHome {
  return valueAt(document, at) as DepthHome;
}
