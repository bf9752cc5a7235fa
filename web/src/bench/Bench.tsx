import { useEffect, useMemo } from "react";
import { Link, useParams } from "react-router";
import type { PieceView } from "../api/client";
import { patched } from "../api/mergePatch";
import { useParts, type Parts } from "../api/parts";
import { usePiece } from "../api/pieces";
import type { MergePatch } from "../api/preview";
import { pagesOf } from "../kinds/registry";
import { forgetPiece, useBenchStore } from "../state/benchStore";
import { PartSchemasProvider } from "../state/partSchemas";
import { PreviewsProvider } from "../state/previews";
import { usePreviewQueries } from "../state/usePreviewQueries";
import { firstStation } from "../state/useReshape";
import { BenchFrame } from "./BenchFrame";

/** The screen where a piece is worked on. */
export function Bench() {
  const { pieceId = "" } = useParams();
  const piece = usePiece(pieceId);
  const parts = useParts();
  useEffect(() => forgetPiece, [pieceId]);
  const pending = useBenchStore((state) => state.pending);
  const shown = useMemo(() => piece.data && withPending(piece.data, pending?.change), [piece.data, pending]);
  const error = piece.error ?? parts.error;
  if (shown && parts.data) return <OpenBench key={pieceId} piece={shown} parts={parts.data} revision={piece.data?.revision ?? shown.revision} />;
  return (
    <main className="pane-message position-fixed">
      {error ? <Nowhere sentence={error.message} /> : <span>Fetching the piece …</span>}
    </main>
  );
}

function Nowhere({ sentence }: { sentence: string }) {
  return (
    <>
      <p role="alert">{sentence}</p>
      <Link to="/">Back to the shelf</Link>
    </>
  );
}

function OpenBench({ piece, parts, revision }: { piece: PieceView; parts: Parts; revision: number }) {
  const pages = pagesOf(piece);
  const draft = useBenchStore((state) => state.draft);
  const station = useStation(piece);
  const opId = useBenchStore((state) => state.opId);
  const look = useBenchStore((state) => state.look);
  const { document } = piece;
  const upto = pages?.upto(document, { station, opId, look }) ?? null;
  const previews = usePreviewQueries(piece.id, revision, upto);
  const transmission = useMemo(() => pages?.light?.(draft ? patched(document, draft) : document) ?? null, [pages, document, draft]);
  useRevision(revision);
  if (!pages) {
    return (
      <main className="pane-message position-fixed">
        <Nowhere sentence="This piece was made by a newer Nebrel; reload the page to work on it." />
      </main>
    );
  }
  return (
    <PartSchemasProvider parts={parts} kind={piece.kind}>
      <PreviewsProvider shown={{ ...previews, transmission, atSource: pages.sourceApart && upto !== null }}>
        <pages.Bench piece={piece} document={document} upto={upto} Frame={BenchFrame} />
      </PreviewsProvider>
    </PartSchemasProvider>
  );
}

/** The station that is open; one that the piece does not have gives way to the one where its work begins. */
function useStation(piece: PieceView): string {
  const open = useBenchStore((state) => state.station);
  const set = useBenchStore((state) => state.set);
  const station = piece.stations.some(({ name }) => name === open) ? open : firstStation(piece);
  useEffect(() => {
    if (station !== open) set({ station });
  }, [station, open, set]);
  return station;
}

/** Let an edit that was kept be shown as pending until its revision is here. */
function useRevision(revision: number): void {
  const set = useBenchStore((state) => state.set);
  useEffect(() => {
    const { pending } = useBenchStore.getState();
    set({ revision, pending: pending?.kept ? null : pending });
  }, [revision, set]);
}

/** The piece as it will be once what is being kept is kept. */
function withPending(piece: PieceView, change: MergePatch | undefined): PieceView {
  if (!change || Object.values(change).includes(null)) return piece;
  return { ...piece, document: patched(piece.document, change) };
}
