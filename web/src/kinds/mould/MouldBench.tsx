import { lazy } from "react";
import type { MouldDocument } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import { useEditing } from "../../state/useEditing";
import { PlanView } from "../../views/plan/PlanView";
import { useNewRow } from "../common/fields/newRow";
import { DecorateCards } from "../common/decorate/DecorateCards";
import { DeliverStation } from "../common/deliver/DeliverStation";
import type { BenchProps, Fix } from "../common/pageKind";
import { ProofStation } from "../common/proof/ProofStation";
import { StepsCard } from "../common/steps/StepsCard";
import { MouldStation } from "./MouldStation";

const NOTHING = { comparable: false, plan: null };
/** Drawn inside the stage, so it is loaded with it. */
const DecorLayer = lazy(() => import("../common/decorate/DecorLayer"));

/** The bench of a mould. */
export function MouldBench({ piece, document, Frame }: BenchProps<MouldDocument>) {
  const editing = useEditing(piece.id, document);
  const newStep = useNewRow(document, "steps");
  const station = useBenchStore((state) => state.station);
  const set = useBenchStore((state) => state.set);
  const props = { piece, pieceId: piece.id, revision: piece.revision, document, editing };
  const fix = ({ kind, parameters, words }: Fix) => {
    set({ station: "body" });
    editing.keep(words, { steps: [...document.steps, newStep(kind, parameters)] });
  };
  return (
    <Frame piece={piece} editing={editing} layer={DecorLayer} onFix={fix} plan={<PlanView pieceId={piece.id} before={NOTHING} thin={null} tools={null} />}>
      {station === "proof" ? (
        <ProofStation {...props} />
      ) : station === "deliver" ? (
        <DeliverStation {...props} />
      ) : station === "body" ? (
        <>
          <DecorateCards {...props} />
          <StepsCard {...props} />
        </>
      ) : (
        <MouldStation {...props} />
      )}
    </Frame>
  );
}
