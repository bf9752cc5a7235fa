import { lazy } from "react";
import type { FigureDocument } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import { useDepthStore } from "../../state/depthStore";
import { DepthMarks } from "../common/depth/DepthMarks";
import { DepthTool } from "../common/depth/DepthTools";
import { DeliverStation } from "../common/deliver/DeliverStation";
import type { OpsEditing } from "../common/ops/useOps";
import type { BenchProps } from "../common/pageKind";
import { PicturedBench } from "../common/picture/PicturedBench";
import { PictureStation } from "../common/picture/PictureStation";
import { ProofStation } from "../common/proof/ProofStation";
import type { FigureStationProps } from "../common/stationProps";
import { FigureStation } from "./FigureStation";
import { MirrorLine } from "./MirrorLine";
import { SurfaceStation } from "./SurfaceStation";

/** Drawn inside the stage, and loaded with it. */
const DecorLayer = lazy(() => import("../common/decorate/DecorLayer"));

/** The bench of a figure in the round. */
export function FigureBench(props: BenchProps<FigureDocument>) {
  const { piece, document } = props;
  const shared = { piece, pieceId: piece.id, revision: piece.revision, document };
  const atFigure = useBenchStore((state) => state.station === "figure");
  const drawing = useDepthStore((state) => state.kind !== null || state.marking);
  return (
    <PicturedBench
      {...props}
      layer={DecorLayer}
      cards={(editing, ops) => <Cards {...shared} editing={editing} ops={ops} />}
      marks={
        atFigure
          ? (editing, geometry) => (
              <>
                <DepthMarks pieceId={piece.id} revision={piece.revision} document={document} geometry={geometry} at="figure" />
                <MirrorLine document={document} editing={editing} geometry={geometry} />
              </>
            )
          : null
      }
      tools={atFigure && drawing ? (editing, geometry) => <DepthTool document={document} editing={editing} geometry={geometry} at="figure" /> : null}
    />
  );
}

function Cards({ ops, ...props }: FigureStationProps & { ops: OpsEditing }) {
  const station = useBenchStore((state) => state.station);
  switch (station) {
    case "picture":
      return <PictureStation {...props} ops={ops} />;
    case "surface":
      return <SurfaceStation {...props} />;
    case "proof":
      return <ProofStation {...props} />;
    case "deliver":
      return <DeliverStation {...props} />;
    default:
      return <FigureStation {...props} />;
  }
}
