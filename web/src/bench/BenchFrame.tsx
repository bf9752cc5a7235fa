import { useCallback, useEffect, useMemo, useState } from "react";
import { patched } from "../api/mergePatch";
import { ModelView } from "../views/model/ModelView";
import { SectionPane } from "../views/section/SectionPane";
import { BenchHead } from "./BenchHead";
import type { FrameProps } from "../kinds/common/pageKind";
import { useBenchStore } from "../state/benchStore";
import { usePlanSide } from "../state/previews";
import { Findings } from "./Findings";
import { Guide } from "./Guide";
import { ShortcutsDialog } from "./ShortcutsDialog";
import { useBuiltSolid } from "../state/useBuiltSolid";
import { useRefusal } from "../state/useRefusal";
import { useSteps } from "./steps";
import { useShortcuts } from "./useShortcuts";

/** Head, views, cards and findings around one piece. */
export function BenchFrame({ piece, editing, plan, layer, children, onFix }: FrameProps) {
  const [keysShown, setKeysShown] = useState(false);
  const showKeys = useCallback(() => setKeysShown(true), []);
  useShortcuts(piece, showKeys);
  const built = useBuiltSolid(piece.id, piece.revision);
  const refusal = useRefusal();
  const draft = useBenchStore((state) => state.draft);
  const shown = useMemo(() => (draft ? patched(piece.document, draft) : piece.document), [piece.document, draft]);
  const printing = shown.carving.on ? null : shown.printing;
  const steps = useSteps(piece.document);
  const planned = usePlanSide().plan !== null;
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
        {plan}
        <ModelView pieceId={piece.id} revision={piece.revision} built={built} layer={layer} printing={printing} title={piece.document.title} steps={steps} />
        <SectionPane piece={piece} />
        <aside className="pane pane-side" aria-label="Station">
          <div className="cards">
            {refusal && (
              <p className="text-danger mb-2" role="alert" data-testid="refusal">
                <i className="bi bi-x-octagon-fill me-1" aria-hidden="true" />
                {refusal}
              </p>
            )}
            {children}
          </div>
          <Findings piece={piece} onFix={onFix} onKeep={editing.keep} />
        </aside>
        {!planned && !refusal && (
          <div className="pane-message" style={{ right: 312 }} role="status">
            <span className="bg-white px-3 py-2 rounded text-body">Setting the piece up …</span>
          </div>
        )}
      </main>
      <Guide piece={piece} />
      <ShortcutsDialog show={keysShown} onHide={() => setKeysShown(false)} />
    </div>
  );
}
