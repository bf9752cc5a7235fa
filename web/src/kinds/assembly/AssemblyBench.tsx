import { lazy } from "react";
import type { AssemblyDocument } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import { useEditing } from "../../state/useEditing";
import { PlanView } from "../../views/plan/PlanView";
import { DecorateCards } from "../common/decorate/DecorateCards";
import { DeliverStation } from "../common/deliver/DeliverStation";
import { useNewRow } from "../common/fields/newRow";
import type { BenchProps, Fix } from "../common/pageKind";
import { ProofStation } from "../common/proof/ProofStation";
import { StepsCard } from "../common/steps/StepsCard";
import { ObjectsCard } from "./ObjectsCard";
import { PartHandles } from "./PartHandles";
import { PartsStation } from "./PartsStation";
import { withPart } from "./assemblyEdits";

const NOTHING = { comparable: false, plan: null };
/** Drawn inside the stage, and loaded with it. */
const DecorLayer = lazy(() => import("../common/decorate/DecorLayer"));
const PartLayer = lazy(() => import("./PartLayer"));

/** The bench of a piece that is put together of others. */
export function AssemblyBench({ piece, document, Frame }: BenchProps<AssemblyDocument>) {
  const editing = useEditing(piece.id, document);
  const newStep = useNewRow(document, "steps");
  const station = useBenchStore((state) => state.station);
  const set = useBenchStore((state) => state.set);
  const props = { piece, pieceId: piece.id, revision: piece.revision, document, editing };
  const fix = ({ kind, parameters, words }: Fix) => {
    const { id, mm } = parameters as { id?: string; mm?: number };
    const part = document.assembly.find((each) => each.id === id);
    if (!part) {
      set({ station: "body" });
      editing.keep(words, { steps: [...document.steps, newStep(kind, parameters)] });
      return;
    }
    if (kind === "join-part") {
      editing.keep(words, { assembly: document.assembly.map((each) => ({ ...each, how: each.how === "apart" ? ("join" as const) : each.how })) });
      return;
    }
    const sunk = kind === "sink" && part.stands === "free" ? { z_mm: part.z_mm - (mm ?? 0) } : { stands: "on" as const, sink_mm: mm ?? 0 };
    set({ station: "parts", opId: part.id });
    editing.keep(words, { assembly: withPart(document.assembly, part.id, sunk) });
  };
  return (
    <Frame
      piece={piece}
      editing={editing}
      layer={station === "parts" ? PartLayer : DecorLayer}
      onFix={fix}
      plan={
        <PlanView
          pieceId={piece.id}
          before={NOTHING}
          thin={null}
          tools={station === "parts" ? (geometry) => <PartHandles document={document} editing={editing} geometry={geometry} /> : null}
        />
      }
    >
      {station === "proof" ? (
        <ProofStation {...props} />
      ) : station === "deliver" ? (
        <>
          <ObjectsCard {...props} />
          <DeliverStation {...props} />
        </>
      ) : station === "body" ? (
        <>
          <DecorateCards {...props} />
          <StepsCard {...props} />
        </>
      ) : (
        <PartsStation {...props} />
      )}
    </Frame>
  );
}
