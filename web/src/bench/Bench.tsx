import { useCallback, useEffect, useMemo, useState } from "react";
import { Link, useParams } from "react-router";
import type { PieceView } from "../api/client";
import { useConnection } from "../api/connection";
import { opsOf } from "../api/ops";
import { usePiece } from "../api/pieces";
import type { MergePatch } from "../api/preview";
import { BodyStation } from "../stations/body/BodyStation";
import { DeliverStation } from "../stations/deliver/DeliverStation";
import { HeightStation } from "../stations/height/HeightStation";
import { lookedAt } from "../stations/picture/lookedAt";
import { PictureStation } from "../stations/picture/PictureStation";
import { PictureTools } from "../stations/picture/tools/PictureTools";
import { useBefore } from "../stations/picture/useBefore";
import { useOps, type OpsEditing } from "../stations/picture/useOps";
import { useThinMap } from "../stations/picture/useThinMap";
import { ProofStation } from "../stations/proof/ProofStation";
import { ModelView } from "../views/model/ModelView";
import { PlanView } from "../views/plan/PlanView";
import { SectionView } from "../views/section/SectionView";
import { BenchHead } from "./BenchHead";
import { useBenchStore } from "./benchStore";
import { Findings } from "./Findings";
import { patched } from "./mergePatch";
import { ShortcutsDialog } from "./ShortcutsDialog";
import { useBuiltSolid } from "./useBuiltSolid";
import { useEditing } from "./useEditing";
import { usePreviews } from "./usePreviews";
import { useShortcuts } from "./useShortcuts";

/** The screen where a piece is worked on. */
export function Bench() {
  const { pieceId = "" } = useParams();
  const piece = usePiece(pieceId);
  const upto = useUpto(piece.data);
  usePreviews(pieceId, piece.data?.revision, upto);
  const pending = useBenchStore((state) => state.pending);
  const shown = useMemo(() => piece.data && withPending(piece.data, pending?.change), [piece.data, pending]);
  if (shown) return <PieceBench piece={shown} upto={upto} />;
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
  return piece && atPicture ? lookedAt(opsOf(piece.document), opId, look) : null;
}

function PieceBench({ piece, upto }: { piece: PieceView; upto: string | null }) {
  const editing = useEditing(piece.id, piece.document);
  const ops = useOps(piece.document, editing);
  const [keysShown, setKeysShown] = useState(false);
  const showKeys = useCallback(() => setKeysShown(true), []);
  useShortcuts(piece, showKeys);
  const built = useBuiltSolid(piece.id, piece.revision);
  const { connected } = useConnection();
  const refusal = useBenchStore((state) => (connected ? (state.editRefusal ?? state.refusal) : null));
  const plan = useBenchStore((state) => state.plan);
  const opId = useBenchStore((state) => state.opId);
  const atPicture = useBenchStore((state) => state.station === "picture");
  const before = useBefore(piece.id, piece.revision, ops.ops, upto);
  const thin = useThinMap(piece.id, piece.revision);
  const drawing = atPicture && ops.ops.some((op) => op.id === opId && op.on && ops.kindOf(op)?.tool);
  useEffect(() => {
    document.title = `${piece.document.title} · Nebrel`;
    return () => {
      document.title = "Nebrel";
    };
  }, [piece.document.title]);
  return (
    <div className="bench">
      <BenchHead piece={piece} editing={editing} onShortcuts={showKeys} />
      <main className="bench-body">
        <PlanView
          pieceId={piece.id}
          before={before}
          thin={thin}
          tools={drawing ? (geometry) => <PictureTools editing={ops} geometry={geometry} /> : null}
        />
        <ModelView pieceId={piece.id} revision={piece.revision} built={built} />
        <SectionView piece={piece} />
        <aside className="pane pane-side" aria-label="Station">
          <div className="cards">
            {refusal && (
              <p className="text-danger mb-2" role="alert" data-testid="refusal">
                <i className="bi bi-x-octagon-fill me-1" aria-hidden="true" />
                {refusal}
              </p>
            )}
            <StationCards piece={piece} editing={editing} ops={ops} />
          </div>
          <Findings piece={piece} ops={ops} />
        </aside>
        {!plan && !refusal && (
          <div className="pane-message" style={{ right: 312 }} role="status">
            <span className="bg-white px-3 py-2 rounded text-body">Raising the relief …</span>
          </div>
        )}
      </main>
      <ShortcutsDialog show={keysShown} onHide={() => setKeysShown(false)} />
    </div>
  );
}

interface CardsProps {
  piece: PieceView;
  editing: ReturnType<typeof useEditing>;
  ops: OpsEditing;
}

function StationCards({ piece, editing, ops }: CardsProps) {
  const station = useBenchStore((state) => state.station);
  const props = { pieceId: piece.id, revision: piece.revision, document: piece.document, editing };
  switch (station) {
    case "picture":
      return <PictureStation {...props} ops={ops} />;
    case "height":
      return <HeightStation {...props} />;
    case "body":
      return <BodyStation {...props} />;
    case "proof":
      return <ProofStation {...props} />;
    case "deliver":
      return <DeliverStation {...props} />;
  }
}
