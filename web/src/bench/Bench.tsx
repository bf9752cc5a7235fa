import { useMemo } from "react";
import { Link, useParams } from "react-router";
import { isLithophane, isModel, isOutlined, isPanel, isTraced, type PieceView } from "../api/client";
import { opsOf } from "../api/ops";
import { usePiece } from "../api/pieces";
import type { MergePatch } from "../api/preview";
import { lookedAt } from "../stations/picture/lookedAt";
import { useBenchStore } from "./benchStore";
import { patched } from "./mergePatch";
import { LithophaneBench } from "./LithophaneBench";
import { ModelBench } from "./ModelBench";
import { OutlineBench } from "./OutlineBench";
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
  if (shown && isOutlined(shown.document)) return <OutlineBench piece={shown} document={shown.document} upto={upto} />;
  if (shown && isPanel(shown.document)) return <PanelBench piece={shown} document={shown.document} upto={upto} />;
  if (shown && isLithophane(shown.document)) return <LithophaneBench piece={shown} document={shown.document} upto={upto} />;
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

/** The piece as it will be once what is being kept is kept; one that becomes another thing gets its parts from the server. */
function withPending(piece: PieceView, change: MergePatch | undefined): PieceView {
  if (!change || Object.values(change).includes(null)) return piece;
  return { ...piece, document: patched(piece.document, change) };
}

/** The picture op after which the Plan looks; "" for the source, null for the finished piece. */
function useUpto(piece: PieceView | undefined): string | null {
  const opId = useBenchStore((state) => state.opId);
  const look = useBenchStore((state) => state.look);
  const station = useBenchStore((state) => state.station);
  if (!piece || isModel(piece.document)) return null;
  const ops = opsOf(piece.document);
  const prepared = ops.at(-1)?.id ?? "";
  if (station === "picture" && isPanel(piece.document)) return lookedAt(ops, opId, look);
  if (station === "picture" && (isTraced(piece.document) || isLithophane(piece.document))) return lookedAt(ops, opId, look) ?? prepared;
  return station === "height" && isOutlined(piece.document) ? prepared : null;
}
