import type { LithophaneDocument } from "../../api/client";
import { builtJob } from "../../api/built";
import { useJobs } from "../../api/pieces";
import { useBenchStore } from "../../state/benchStore";
import { useModellingStore } from "../../state/modellingStore";
import type { Editing } from "../../state/useEditing";
import type { PlanGeometry } from "../../views/plan/geometry";
import { DeliverStation } from "../common/deliver/DeliverStation";
import { ModellingTool } from "../common/modelling/ModellingTool";
import { useModelling } from "../common/modelling/useModelling";
import type { OpsEditing } from "../common/ops/useOps";
import type { BenchProps } from "../common/pageKind";
import { PicturedBench } from "../common/picture/PicturedBench";
import { PictureStation } from "../common/picture/PictureStation";
import { ProofStation } from "../common/proof/ProofStation";
import type { LithophaneStationProps } from "../common/stationProps";
import { LightStation } from "./LightStation";
import { LithophaneBody } from "./LithophaneBody";
import { RecipeCard } from "./RecipeCard";

/** The bench of a piece that is looked at with a lamp behind it. */
export function LithophaneBench(props: BenchProps<LithophaneDocument>) {
  const { piece, document } = props;
  const shared = { piece, pieceId: piece.id, revision: piece.revision, document };
  const modelled = useModellingStore((state) => state.tool !== null);
  return (
    <PicturedBench
      {...props}
      cards={(editing, ops) => <Cards {...shared} editing={editing} ops={ops} />}
      tools={modelled ? (editing, geometry) => <Modelled document={document} editing={editing} geometry={geometry} /> : null}
    />
  );
}

/** The hand on the thickness, over the unrolled sheet. */
function Modelled({ document, editing, geometry }: { document: LithophaneDocument; editing: Editing; geometry: PlanGeometry }) {
  return <ModellingTool geometry={geometry} modelling={useModelling(document, editing, "hand.strokes", false)} />;
}

function Cards({ ops, ...props }: LithophaneStationProps & { ops: OpsEditing }) {
  const station = useBenchStore((state) => state.station);
  const { pieceId, revision } = props;
  const built = builtJob(useJobs(pieceId).data, revision);
  switch (station) {
    case "picture":
      return <PictureStation {...props} ops={ops} />;
    case "body":
      return <LithophaneBody {...props} />;
    case "proof":
      return <ProofStation {...props} />;
    case "deliver":
      return (
        <DeliverStation {...props}>
          <RecipeCard pieceId={pieceId} revision={revision} builtBy={built?.id} />
        </DeliverStation>
      );
    default:
      return <LightStation {...props} />;
  }
}
