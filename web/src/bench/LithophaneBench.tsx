import { useEffect, useMemo } from "react";
import type { LithophaneDocument, PieceView } from "../api/client";
import { DeliverStation } from "../stations/deliver/DeliverStation";
import { LithophaneBody } from "../stations/lithophane/LithophaneBody";
import { LightStation } from "../stations/lithophane/LightStation";
import { PictureStation } from "../stations/picture/PictureStation";
import type { OpsEditing } from "../stations/picture/useOps";
import { ProofStation } from "../stations/proof/ProofStation";
import type { LithophaneStationProps } from "../stations/stationProps";
import { glowLookOf } from "../views/glow";
import { useBenchStore } from "./benchStore";
import { PicturedBench } from "./PicturedBench";
import { patched } from "./mergePatch";

interface Props {
  piece: PieceView;
  document: LithophaneDocument;
  upto: string | null;
}

/** The bench of a piece that is looked at with a lamp behind it. */
export function LithophaneBench({ piece, document, upto }: Props) {
  const draft = useBenchStore((state) => state.draft);
  const set = useBenchStore((state) => state.set);
  const glow = useMemo(() => glowLookOf(draft ? patched(document, draft) : document), [document, draft]);
  useEffect(() => set({ glow, atSource: upto !== null }), [glow, upto, set]);
  useEffect(() => () => set({ glow: null, atSource: false }), [set]);
  return (
    <PicturedBench
      piece={piece}
      document={document}
      upto={upto}
      cards={(editing, ops) => <Cards pieceId={piece.id} revision={piece.revision} document={document} editing={editing} ops={ops} />}
    />
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
