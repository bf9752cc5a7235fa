import type { PanelDocument } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import { DeliverStation } from "../common/deliver/DeliverStation";
import type { OpsEditing } from "../common/ops/useOps";
import type { BenchProps } from "../common/pageKind";
import { PicturedBench } from "../common/picture/PicturedBench";
import { PictureStation } from "../common/picture/PictureStation";
import { PictureFileCard } from "../common/PictureFileCard";
import { ProofStation } from "../common/proof/ProofStation";
import type { StationProps } from "../common/stationProps";
import { BodyStation } from "./body/BodyStation";
import { HeightStation } from "./height/HeightStation";
import { HistogramCard } from "./picture/HistogramCard";

/** The bench of a relief panel. */
export function PanelBench(props: BenchProps<PanelDocument>) {
  const { piece, document } = props;
  const shared = { piece, pieceId: piece.id, revision: piece.revision, document };
  return <PicturedBench {...props} cards={(editing, ops) => <Cards {...shared} editing={editing} ops={ops} />} />;
}

function Cards({ ops, ...props }: StationProps & { ops: OpsEditing }) {
  const station = useBenchStore((state) => state.station);
  const { pieceId, revision, document } = props;
  switch (station) {
    case "picture":
      return (
        <PictureStation {...props} ops={ops}>
          <HistogramCard document={document} />
        </PictureStation>
      );
    case "body":
      return <BodyStation {...props} />;
    case "proof":
      return <ProofStation {...props} />;
    case "deliver":
      return (
        <DeliverStation {...props} rebuilt>
          <PictureFileCard
            pieceId={pieceId}
            revision={revision}
            kind="heights"
            title="Heights as a picture"
            action="Save the heights"
            words="16 bit, black at the back, with a file of facts in mm beside it."
          />
        </DeliverStation>
      );
    default:
      return <HeightStation {...props} />;
  }
}
