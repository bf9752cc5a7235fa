import { useEffect, useMemo } from "react";
import type { LithophaneDocument, PieceView } from "../api/client";
import { DeliverStation } from "../stations/deliver/DeliverStation";
import { LithophaneBody } from "../stations/lithophane/LithophaneBody";
import { LightStation } from "../stations/lithophane/LightStation";
import { PictureStation } from "../stations/picture/PictureStation";
import { PictureTools } from "../stations/picture/tools/PictureTools";
import { useBefore } from "../stations/picture/useBefore";
import { useOps, type OpsEditing } from "../stations/picture/useOps";
import { useThinMap } from "../stations/picture/useThinMap";
import { ProofStation } from "../stations/proof/ProofStation";
import type { LithophaneStationProps } from "../stations/stationProps";
import { glowLookOf } from "../views/glow";
import { PlanView } from "../views/plan/PlanView";
import { BenchFrame } from "./BenchFrame";
import { useBenchStore } from "./benchStore";
import { patched } from "./mergePatch";
import { useEditing } from "./useEditing";

interface Props {
  piece: PieceView;
  document: LithophaneDocument;
  upto: string | null;
}

/** The bench of a piece that is looked at with a lamp behind it. */
export function LithophaneBench({ piece, document, upto }: Props) {
  const editing = useEditing(piece.id, document);
  const ops = useOps(document, editing);
  const opId = useBenchStore((state) => state.opId);
  const atPicture = useBenchStore((state) => state.station === "picture");
  const draft = useBenchStore((state) => state.draft);
  const set = useBenchStore((state) => state.set);
  const before = useBefore(piece.id, piece.revision, ops.ops, upto);
  const thin = useThinMap(piece.id, piece.revision);
  const glow = useMemo(() => glowLookOf(draft ? patched(document, draft) : document), [document, draft]);
  useEffect(() => set({ glow, atSource: upto !== null }), [glow, upto, set]);
  useEffect(() => () => set({ glow: null, atSource: false }), [set]);
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
      <Cards pieceId={piece.id} revision={piece.revision} document={document} editing={editing} ops={ops} />
    </BenchFrame>
  );
}

function Cards({ ops, ...props }: LithophaneStationProps & { ops: OpsEditing }) {
  const station = useBenchStore((state) => state.station);
  switch (station) {
    case "picture":
      return <PictureStation {...props} ops={ops} />;
    case "height":
      return <LightStation {...props} />;
    case "body":
      return <LithophaneBody {...props} />;
    case "proof":
      return <ProofStation {...props} />;
    case "deliver":
      return <DeliverStation {...props} />;
  }
}
