import type { ComponentType, ReactNode } from "react";
import type { AnyDocument, Finding, PieceView } from "../../api/client";
import type { Look } from "../../state/benchStore";
import type { TransmissionLook } from "../../state/previews";
import type { Editing } from "../../state/useEditing";
import type { StageLayer } from "../../views/model/stageLayer";

export type Fix = NonNullable<Finding["fix"]>;

/** Head, views, cards and findings that the bench puts round one piece. */
export interface FrameProps {
  piece: PieceView;
  editing: Editing;
  plan: ReactNode;
  /** What is drawn on the model in the stage itself, see `StageLayer`. */
  layer?: StageLayer;
  /** The cards of the station that is open. */
  children: ReactNode;
  onFix: (fix: Fix) => void;
}

export interface BenchProps<Document> {
  piece: PieceView;
  document: Document;
  /** The picture op after which the Plan looks; "" for the source, null for the finished piece. */
  upto: string | null;
  Frame: ComponentType<FrameProps>;
}

/** Where a person is on the bench. */
export interface At {
  station: string;
  opId: string | null;
  look: Look;
}

/** The pages of one kind of piece: the only place of the page that knows it. */
export interface PageKind<Document extends AnyDocument> {
  Bench: ComponentType<BenchProps<Document>>;
  /** Where the Plan looks; null for the finished piece. */
  upto: (document: Document, at: At) => string | null;
  /** Whether what the Plan shows before the finished piece is laid out otherwise than the solid is. */
  sourceApart: boolean;
  /** How it lets light through. */
  light?: (document: Document) => TransmissionLook;
}
