import { useEffect } from "react";
import type { OutlineDocument, TracedDocument } from "../../api/client";
import { useOutlines } from "../../api/outlines";
import { useBenchStore } from "../../state/benchStore";
import { useOutlineStore } from "../../state/outlineStore";
import { useEditing, type Editing } from "../../state/useEditing";
import { PlanView } from "../../views/plan/PlanView";
import { DeliverStation } from "../common/deliver/DeliverStation";
import { useNewRow } from "../common/fields/newRow";
import type { BenchProps, Fix } from "../common/pageKind";
import { PicturedBench } from "../common/picture/PicturedBench";
import { PictureStation } from "../common/picture/PictureStation";
import { ProofStation } from "../common/proof/ProofStation";
import { OutlineFilesCard } from "./OutlineFilesCard";
import { OutlineStation } from "./OutlineStation";
import { OutlineTools } from "./OutlineTools";
import { ShapeStation } from "./shape/ShapeStation";
import { isTraced } from "./traced";

const NOTHING = { comparable: false, plan: null };
// Fixes that change how the picture is traced.
const TRACED = ["ink", "trace"];
const MENDED = ["widen", "close-gaps", "uncross", "touching", "drop-tiny", "drop-doubles"];

/** The bench of a piece made of outlines, from a picture or from a drawing. */
export function OutlineBench(props: BenchProps<OutlineDocument>) {
  const { piece, document } = props;
  const station = useBenchStore((state) => state.station);
  useEffect(() => useOutlineStore.getState().set({ chosen: [], node: null }), [piece.id]);
  return station === "picture" && isTraced(document) ? <AtPicture {...props} document={document} /> : <AtOutlines {...props} />;
}

function AtPicture(props: BenchProps<TracedDocument>) {
  const { piece, document } = props;
  const shared = { piece, pieceId: piece.id, revision: piece.revision, document };
  const newMend = useNewRow(document, "mend");
  const mend = (fix: Fix, editing: Editing) =>
    editing.keep(fix.words, TRACED.includes(fix.kind) ? { trace: fix.parameters } : { mend: [...document.mend, newMend(fix.kind, fix.parameters)] });
  return <PicturedBench {...props} onFix={mend} cards={(editing, ops) => <PictureStation {...shared} editing={editing} ops={ops} />} />;
}

function AtOutlines({ piece, document, Frame }: BenchProps<OutlineDocument>) {
  const editing = useEditing(piece.id, document);
  const newMend = useNewRow(document, "mend");
  const station = useBenchStore((state) => state.station);
  const set = useBenchStore((state) => state.set);
  const draft = useBenchStore((state) => state.draft);
  // While an edit is on its way the page is ahead of the server.
  const idle = useBenchStore((state) => state.pending === null);
  const view = useOutlines(piece.id, piece.revision, draft, idle).data;
  const props = { piece, pieceId: piece.id, revision: piece.revision, document, editing };
  const moveNode = (place: [number, number], by: { x: number; y: number }) => {
    const [x_mm, y_mm] = [by.x, by.y].map((mm) => Math.round(mm * 1000) / 1000);
    editing.keep("Node moved", { mend: [...document.mend, newMend("node", { action: "move", place, x_mm, y_mm })] });
  };
  return (
    <Frame
      piece={piece}
      editing={editing}
      onFix={(fix) => {
        if (TRACED.includes(fix.kind)) editing.keep(fix.words, { trace: fix.parameters });
        if (!MENDED.includes(fix.kind)) return;
        set({ station: "outlines" });
        editing.keep(fix.words, { mend: [...document.mend, newMend(fix.kind, fix.parameters)] });
      }}
      plan={
        <PlanView
          pieceId={piece.id}
          before={NOTHING}
          thin={null}
          tools={station === "outlines" && view ? (geometry) => <OutlineTools view={view} geometry={geometry} onNodeMoved={moveNode} /> : null}
        />
      }
    >
      {station === "outlines" ? (
        <OutlineStation {...props} view={view} />
      ) : station === "proof" ? (
        <ProofStation {...props} />
      ) : station === "deliver" ? (
        <DeliverStation {...props} sinks>
          <OutlineFilesCard pieceId={piece.id} />
        </DeliverStation>
      ) : (
        <ShapeStation {...props} view={view} />
      )}
    </Frame>
  );
}
