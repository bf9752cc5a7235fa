import { useEffect } from "react";
import type { ModelDocument, PieceView } from "../api/client";
import { DeliverStation } from "../stations/deliver/DeliverStation";
import { ModelStation } from "../stations/model/ModelStation";
import { newStep } from "../stations/model/modelSteps";
import { ProofStation } from "../stations/proof/ProofStation";
import { PlanView } from "../views/plan/PlanView";
import { BenchFrame } from "./BenchFrame";
import { useBenchStore } from "./benchStore";
import { isUsed } from "./StationSteps";
import { useEditing } from "./useEditing";

const NOTHING = { comparable: false, plan: null };

/** The bench of a piece that starts from a mesh of elsewhere: no picture, no heights. */
export function ModelBench({ piece, document }: { piece: PieceView; document: ModelDocument }) {
  const editing = useEditing(piece.id, document);
  const station = useBenchStore((state) => state.station);
  const set = useBenchStore((state) => state.set);
  useEffect(() => {
    if (!isUsed(station, document)) set({ station: "body" });
  }, [station, document, set]);
  const props = { pieceId: piece.id, revision: piece.revision, document, editing };
  return (
    <BenchFrame
      piece={piece}
      editing={editing}
      onFix={(fix) => {
        set({ station: "body" });
        editing.keep(fix.words, { steps: [...document.steps, newStep(fix.kind, fix.parameters)] });
      }}
      plan={<PlanView pieceId={piece.id} before={NOTHING} thin={null} tools={null} />}
    >
      {station === "proof" ? <ProofStation {...props} /> : station === "deliver" ? <DeliverStation {...props} /> : <ModelStation {...props} />}
    </BenchFrame>
  );
}
