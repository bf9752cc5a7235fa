import type { ReactNode } from "react";
import type { LithophaneDocument, PieceDocument, PieceView } from "../api/client";
import { PictureTools } from "../stations/picture/tools/PictureTools";
import { useBefore } from "../stations/picture/useBefore";
import { useOps, type OpsEditing } from "../stations/picture/useOps";
import { useThinMap } from "../stations/picture/useThinMap";
import { PlanView } from "../views/plan/PlanView";
import { BenchFrame } from "./BenchFrame";
import { useBenchStore } from "./benchStore";
import { useEditing, type Editing } from "./useEditing";

interface Props {
  piece: PieceView;
  document: PieceDocument | LithophaneDocument;
  upto: string | null;
  /** The cards of the station that is open. */
  cards: (editing: Editing, ops: OpsEditing) => ReactNode;
}

/** What the benches of pieces that start from a picture share: its ops, their tools on the Plan, fixes by ops. */
export function PicturedBench({ piece, document, upto, cards }: Props) {
  const editing = useEditing(piece.id, document);
  const ops = useOps(document, editing);
  const opId = useBenchStore((state) => state.opId);
  const atPicture = useBenchStore((state) => state.station === "picture");
  const set = useBenchStore((state) => state.set);
  const before = useBefore(piece.id, piece.revision, ops.ops, upto);
  const thin = useThinMap(piece.id, piece.revision);
  const drawing = atPicture && ops.ops.some((op) => op.id === opId && op.on && ops.kindOf(op)?.tool);
  return (
    <BenchFrame
      piece={piece}
      editing={editing}
      onFix={(fix) => {
        set({ station: "picture" });
        ops.add(fix.kind, fix.parameters, fix.words);
      }}
      plan={
        <PlanView
          pieceId={piece.id}
          before={before}
          thin={thin}
          tools={drawing ? (geometry) => <PictureTools editing={ops} geometry={geometry} /> : null}
        />
      }
    >
      {cards(editing, ops)}
    </BenchFrame>
  );
}
