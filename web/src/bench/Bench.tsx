import { useCallback, useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import type { PieceView } from "../api/client";
import { useConnection } from "../api/connection";
import { useJobs, usePiece } from "../api/pieces";
import { BodyStation } from "../stations/body/BodyStation";
import { DeliverStation } from "../stations/deliver/DeliverStation";
import { HeightStation } from "../stations/height/HeightStation";
import { PictureStation } from "../stations/picture/PictureStation";
import { ProofStation } from "../stations/proof/ProofStation";
import { FindingList } from "../ui/FindingList";
import { ModelView } from "../views/model/ModelView";
import { PlanView } from "../views/plan/PlanView";
import { SectionView } from "../views/section/SectionView";
import { BenchHead } from "./BenchHead";
import { useBenchStore } from "./benchStore";
import { builtReport } from "./built";
import { ShortcutsDialog } from "./ShortcutsDialog";
import { useBuiltSolid } from "./useBuiltSolid";
import { useEditing } from "./useEditing";
import { usePreviews } from "./usePreviews";
import { useShortcuts } from "./useShortcuts";

/** The screen where a piece is worked on. */
export function Bench() {
  const { pieceId = "" } = useParams();
  const piece = usePiece(pieceId);
  usePreviews(pieceId, piece.data?.revision);
  if (piece.data) return <PieceBench piece={piece.data} />;
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

function PieceBench({ piece }: { piece: PieceView }) {
  const editing = useEditing(piece.id);
  const [keysShown, setKeysShown] = useState(false);
  const showKeys = useCallback(() => setKeysShown(true), []);
  useShortcuts(piece, showKeys);
  const built = useBuiltSolid(piece.id, piece.revision);
  const { connected } = useConnection();
  const refusal = useBenchStore((state) => (connected ? state.refusal : null));
  const plan = useBenchStore((state) => state.plan);
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
        <PlanView />
        <ModelView built={built} />
        <SectionView pieceId={piece.id} revision={piece.revision} />
        <aside className="pane pane-side" aria-label="Station">
          <div className="cards">
            {refusal && (
              <p className="text-danger mb-2" role="alert" data-testid="refusal">
                <i className="bi bi-x-octagon-fill me-1" aria-hidden="true" />
                {refusal}
              </p>
            )}
            <StationCards piece={piece} editing={editing} />
          </div>
          <Findings piece={piece} />
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

function StationCards({ piece, editing }: { piece: PieceView; editing: ReturnType<typeof useEditing> }) {
  const station = useBenchStore((state) => state.station);
  const props = { pieceId: piece.id, document: piece.document, editing };
  switch (station) {
    case "picture":
      return <PictureStation {...props} />;
    case "height":
      return <HeightStation {...props} />;
    case "body":
      return <BodyStation {...props} />;
    case "proof":
      return <ProofStation {...props} revision={piece.revision} />;
    case "deliver":
      return <DeliverStation {...props} revision={piece.revision} />;
  }
}

/** What is known now: after a build all of it, before that what the draft shows. */
function Findings({ piece }: { piece: PieceView }) {
  const foreseen = useBenchStore((state) => state.findings);
  const draft = useBenchStore((state) => state.draft);
  const jobs = useJobs(piece.id);
  const report = draft ? undefined : builtReport(jobs.data, piece.revision);
  const findings = report?.findings ?? foreseen;
  return (
    <section className="findings-pane" aria-label="Findings">
      <h2>Findings{report ? "" : " so far"}</h2>
      {findings.length ? (
        <FindingList findings={findings} />
      ) : (
        <p className="quiet-label mb-0">Nothing stands out. The build checks the solid itself.</p>
      )}
    </section>
  );
}
