import type { AnyDocument, AssemblyDocument, DrawnDocument, FigureDocument, LithophaneDocument, ModelDocument, MouldDocument, PanelDocument, PieceView, TracedDocument } from "../api/client";
import { assemblyPages } from "./assembly/pages";
import type { PageKind } from "./common/pageKind";
import { figurePages } from "./figure/pages";
import { lithophanePages } from "./lithophane/pages";
import { modelPages } from "./model/pages";
import { mouldPages } from "./mould/pages";
import { drawnPages, tracedPages } from "./outline/pages";
import { panelPages } from "./panel/pages";

interface Documents {
  panel: PanelDocument;
  lithophane: LithophaneDocument;
  figure: FigureDocument;
  traced: TracedDocument;
  drawn: DrawnDocument;
  model: ModelDocument;
  assembly: AssemblyDocument;
  mould: MouldDocument;
}

/** The pages of every kind of piece, under the name that the server's registry gives it. */
const PAGES: { [Name in keyof Documents]: PageKind<Documents[Name]> } = {
  panel: panelPages,
  lithophane: lithophanePages,
  figure: figurePages,
  traced: tracedPages,
  drawn: drawnPages,
  model: modelPages,
  assembly: assemblyPages,
  mould: mouldPages,
};

/** The pages for a piece; null for a kind that a newer server knows and this page does not. */
export function pagesOf(piece: PieceView): PageKind<AnyDocument> | null {
  return piece.kind in PAGES ? (PAGES[piece.kind as keyof Documents] as unknown as PageKind<AnyDocument>) : null;
}
