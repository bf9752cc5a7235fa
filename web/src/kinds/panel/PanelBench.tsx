import type { PanelDocument } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import { useDepthStore } from "../../state/depthStore";
import { DepthMarks } from "../common/depth/DepthMarks";
import { DepthTool } from "../common/depth/DepthTools";
import { useModellingStore } from "../../state/modellingStore";
import type { Editing } from "../../state/useEditing";
import type { PlanGeometry } from "../../views/plan/geometry";
import { ModellingTool } from "../common/modelling/ModellingTool";
import { useModelling } from "../common/modelling/useModelling";
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
import { LaidTool } from "./height/laid/LaidTool";
import { HistogramCard } from "./picture/HistogramCard";

/** The bench of a relief panel. */
export function PanelBench(props: BenchProps<PanelDocument>) {
  const { piece, document } = props;
  const shared = { piece, pieceId: piece.id, revision: piece.revision, document };
  const atHeight = useBenchStore((state) => state.station === "height");
  const byDepth = atHeight && document.height.form.of !== "tones";
  const laid = atHeight && document.height.laid.length > 0;
  const drawing = useDepthStore((state) => state.kind !== null || state.marking);
  const modelled = useModellingStore((state) => state.tool !== null);
  return (
    <PicturedBench
      {...props}
      cards={(editing, ops) => <Cards {...shared} editing={editing} ops={ops} />}
      // What is shaped by hand are the heights, and not the picture.
      marks={byDepth && !modelled && (drawing || !laid) ? (_, geometry) => <DepthMarks {...shared} geometry={geometry} at="height.form" /> : null}
      tools={
        modelled
          ? (editing, geometry) => <Modelled document={document} editing={editing} geometry={geometry} />
          : byDepth && drawing
            ? (editing, geometry) => <DepthTool document={document} editing={editing} geometry={geometry} at="height.form" />
            : laid
              ? (editing, geometry) => <LaidTool document={document} editing={editing} geometry={geometry} />
              : null
      }
    />
  );
}

/** The hand on the heights, over the Plan and on the Model. */
function Modelled({ document, editing, geometry }: { document: PanelDocument; editing: Editing; geometry: PlanGeometry }) {
  return <ModellingTool geometry={geometry} modelling={useModelling(document, editing, "height.hand.strokes")} />;
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
