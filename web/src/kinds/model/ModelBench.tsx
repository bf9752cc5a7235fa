import { lazy } from "react";
import type { ModelDocument } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import { useEditing } from "../../state/useEditing";
import { PlanView } from "../../views/plan/PlanView";
import { DeliverStation } from "../common/deliver/DeliverStation";
import { useNewRow } from "../common/fields/newRow";
import type { BenchProps } from "../common/pageKind";
import { ProofStation } from "../common/proof/ProofStation";
import { ModelStation } from "./ModelStation";

const NOTHING = { comparable: false, plan: null };
/** Drawn inside the stage, and loaded with it. */
const DecorLayer = lazy(() => import("../common/decorate/DecorLayer"));

/** The bench of a piece that starts from a mesh of elsewhere. */
export function ModelBench({ piece, document, Frame }: BenchProps<ModelDocument>) {
  const editing = useEditing(piece.id, document);
  const newStep = useNewRow(document, "steps");
  const station = useBenchStore((state) => state.station);
  const set = useBenchStore((state) => state.set);
  const props = { piece, pieceId: piece.id, revision: piece.revision, document, editing };
  return (
    <Frame
      piece={piece}
      editing={editing}
      layer={DecorLayer}
      onFix={(fix) => {
        set({ station: "body" });
        editing.keep(fix.words, { steps: [...document.steps, newStep(fix.kind, fix.parameters)] });
      }}
      plan={<PlanView pieceId={piece.id} before={NOTHING} thin={null} tools={null} />}
    >
      {station === "proof" ? <ProofStation {...props} /> : station === "deliver" ? <DeliverStation {...props} /> : <ModelStation {...props} />}
    </Frame>
  );
}
