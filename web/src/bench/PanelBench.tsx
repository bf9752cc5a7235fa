import type { PieceDocument, PieceView } from "../api/client";
import { BodyStation } from "../stations/body/BodyStation";
import { DeliverStation } from "../stations/deliver/DeliverStation";
import { HeightStation } from "../stations/height/HeightStation";
import { PictureStation } from "../stations/picture/PictureStation";
import type { OpsEditing } from "../stations/picture/useOps";
import { ProofStation } from "../stations/proof/ProofStation";
import type { StationProps } from "../stations/stationProps";
import { useBenchStore } from "./benchStore";
import { PicturedBench } from "./PicturedBench";

interface Props {
  piece: PieceView;
  document: PieceDocument;
  upto: string | null;
}

/** The bench of a piece that starts from a picture. */
export function PanelBench({ piece, document, upto }: Props) {
  return (
    <PicturedBench
      piece={piece}
      document={document}
      upto={upto}
      cards={(editing, ops) => <Cards pieceId={piece.id} revision={piece.revision} document={document} editing={editing} ops={ops} />}
    />
  );
}

function Cards({ ops, ...props }: StationProps & { ops: OpsEditing }) {
  const station = useBenchStore((state) => state.station);
  switch (station) {
    case "picture":
      return <PictureStation {...props} ops={ops} />;
    case "height":
      return <HeightStation {...props} />;
    case "body":
      return <BodyStation {...props} />;
    case "proof":
      return <ProofStation {...props} />;
    case "deliver":
      return <DeliverStation {...props} />;
  }
}
