import { useEffect } from "react";
import { isTraced, type OutlineDocument, type PieceView, type TracedDocument } from "../api/client";
import { useOutlines } from "../api/outlines";
import { DeliverStation } from "../stations/deliver/DeliverStation";
import { newMend } from "../stations/outline/mendKinds";
import { OutlineStation } from "../stations/outline/OutlineStation";
import { useOutlineStore } from "../stations/outline/outlineStore";
import { OutlineTools } from "../stations/outline/OutlineTools";
import { PictureStation } from "../stations/picture/PictureStation";
import { PictureTools } from "../stations/picture/tools/PictureTools";
import { useBefore } from "../stations/picture/useBefore";
import { useOps } from "../stations/picture/useOps";
import { useThinMap } from "../stations/picture/useThinMap";
import { ProofStation } from "../stations/proof/ProofStation";
import { ShapeStation } from "../stations/shape/ShapeStation";
import type { PlanGeometry } from "../views/plan/geometry";
import { PlanView } from "../views/plan/PlanView";
import { BenchFrame } from "./BenchFrame";
import { useBenchStore } from "./benchStore";
import { isUsed } from "./StationSteps";
import { useEditing } from "./useEditing";

const NOTHING = { comparable: false, plan: null };
const MENDED = ["widen", "close-gaps", "uncross", "drop-tiny", "drop-doubles"];

interface Props {
  piece: PieceView;
  document: OutlineDocument;
  upto: string | null;
}

/** The bench of a piece made of outlines, from a picture or from a drawing. */
export function OutlineBench({ piece, document, upto }: Props) {
  const station = useBenchStore((state) => state.station);
  const set = useBenchStore((state) => state.set);
  useEffect(() => {
    if (!isUsed(station, document)) set({ station: "height" });
  }, [station, document, set]);
  useEffect(() => {
    set({ atSource: upto !== null });
    return () => set({ atSource: false });
  }, [upto, set]);
  useEffect(() => useOutlineStore.getState().set({ chosen: [], node: null }), [piece.id]);
  if (station === "picture" && isTraced(document)) return <AtPicture piece={piece} document={document} upto={upto} />;
  return <AtOutlines piece={piece} document={document} />;
}

function AtPicture({ piece, document, upto }: Props & { document: TracedDocument }) {
  const editing = useEditing(piece.id, document);
  const ops = useOps(document, editing);
  const opId = useBenchStore((state) => state.opId);
  const before = useBefore(piece.id, piece.revision, ops.ops, upto);
  const thin = useThinMap(piece.id, piece.revision);
  const drawing = ops.ops.some((op) => op.id === opId && op.on && ops.kindOf(op)?.tool);
  const tools = drawing ? (geometry: PlanGeometry) => <PictureTools editing={ops} geometry={geometry} /> : null;
  return (
    <BenchFrame
      piece={piece}
      editing={editing}
      onFix={(fix) => editing.keep(fix.words, { mend: [...document.mend, newMend(fix.kind, fix.parameters)] })}
      plan={<PlanView pieceId={piece.id} before={before} thin={thin} tools={tools} />}
    >
      <PictureStation pieceId={piece.id} revision={piece.revision} document={document} editing={editing} ops={ops} />
    </BenchFrame>
  );
}

function AtOutlines({ piece, document }: Omit<Props, "upto">) {
  const editing = useEditing(piece.id, document);
  const station = useBenchStore((state) => state.station);
  const set = useBenchStore((state) => state.set);
  const view = useOutlines(piece.id, piece.revision).data;
  const props = { pieceId: piece.id, revision: piece.revision, document, editing };
  const moveNode = (place: [number, number], by: { x: number; y: number }) => {
    const [x_mm, y_mm] = [by.x, by.y].map((mm) => Math.round(mm * 1000) / 1000);
    editing.keep("Node moved", { mend: [...document.mend, newMend("node", { action: "move", place, x_mm, y_mm })] });
  };
  return (
    <BenchFrame
      piece={piece}
      editing={editing}
      onFix={(fix) => {
        if (!MENDED.includes(fix.kind)) return;
        set({ station: "height" });
        editing.keep(fix.words, { mend: [...document.mend, newMend(fix.kind, fix.parameters)] });
      }}
      plan={
        <PlanView
          pieceId={piece.id}
          before={NOTHING}
          thin={null}
          tools={station === "height" && view ? (geometry) => <OutlineTools view={view} geometry={geometry} onNodeMoved={moveNode} /> : null}
        />
      }
    >
      {station === "height" ? (
        <OutlineStation {...props} view={view} />
      ) : station === "proof" ? (
        <ProofStation {...props} />
      ) : station === "deliver" ? (
        <DeliverStation {...props} />
      ) : (
        <ShapeStation {...props} view={view} />
      )}
    </BenchFrame>
  );
}
