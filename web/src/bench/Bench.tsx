import { useMemo } from "react";
import { Link, useParams } from "react-router";
import { isModel, type PieceView } from "../api/client";
import { opsOf } from "../api/ops";
import { usePiece } from "../api/pieces";
import type { MergePatch } from "../api/preview";
import { lookedAt } from "../stations/picture/lookedAt";
import { useBenchStore } from "./benchStore";
import { patched } from "./mergePatch";
import { ModelBench } from "./ModelBench";
import { PanelBench } from "./PanelBench";
import { usePreviews } from "./usePreviews";

/** The screen where a piece is worked on. */
export function Bench() {
  const { pieceId = "" } = useParams();
  const piece = usePiece(pieceId);
  const upto = useUpto(piece.data);
  usePreviews(pieceId, piece.data?.revision, upto);
  const pending = useBenchStore((state) => state.pending);
  const shown = useMemo(() => piece.data && withPending(piece.data, pending?.change), [piece.data, pending]);
  if (shown && isModel(shown.document)) return <ModelBench piece={shown} document={shown.document} />;
  if (shown && !isModel(shown.document)) return <PanelBench piece={shown} document={shown.document} upto={upto} />;
  return (
    <main className="pane-message position-fixed">
      {piece.error ? (
        <>
          <p role="alert">{piece.error.message}</p>
          <Link to="/">Back to the shelf</Link>
        </>
      ) : (
        <span>Fetching the piece …</span>
      )}
    </main>
  );
}

/** The piece as it will be once what is being kept is kept. */
function withPending(piece: PieceView, change: MergePatch | undefined): PieceView {
  return change ? { ...piece, document: patched(piece.document, change) } : piece;
}

/** The picture op after which the Plan looks; null for the finished picture. */
function useUpto(piece: PieceView | undefined): string | null {
  const opId = useBenchStore((state) => state.opId);
  const look = useBenchStore((state) => state.look);
  const atPicture = useBenchStore((state) => state.station === "picture");
  return piece && atPicture && !isModel(piece.document) ? lookedAt(opsOf(piece.document), opId, look) : null;
}
