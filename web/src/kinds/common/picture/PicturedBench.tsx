import type { ReactNode } from "react";
import type { PicturedDocument } from "../../../api/client";
import { useBenchStore } from "../../../state/benchStore";
import { useEditing, type Editing } from "../../../state/useEditing";
import type { PlanGeometry } from "../../../views/plan/geometry";
import { PlanView } from "../../../views/plan/PlanView";
import { useOps, type OpsEditing } from "../ops/useOps";
import type { BenchProps, Fix, FrameProps } from "../pageKind";
import { PictureTools } from "./tools/PictureTools";
import { useBefore } from "./useBefore";
import { useThinMap } from "./useThinMap";

interface Props extends BenchProps<PicturedDocument> {
  /** The cards of the station that is open. */
  cards: (editing: Editing, ops: OpsEditing) => ReactNode;
  /** What is drawn inside the stage. */
  layer?: FrameProps["layer"];
  /** What a fix does where it is no picture op. */
  onFix?: (fix: Fix, editing: Editing) => void;
  /** What a station other than Picture shows over the Plan, which then is the picture and not its heights. */
  marks?: ((editing: Editing, geometry: PlanGeometry) => ReactNode) | null;
  /** What it draws there. */
  tools?: ((editing: Editing, geometry: PlanGeometry) => ReactNode) | null;
}

/** What the benches of pieces that start from a picture share: its ops, their tools on the Plan, fixes by ops. */
export function PicturedBench({ piece, document, upto, Frame, layer, cards, onFix, marks = null, tools = null }: Props) {
  const editing = useEditing(piece.id, document);
  const ops = useOps(document, editing);
  const opId = useBenchStore((state) => state.opId);
  const atPicture = useBenchStore((state) => state.station === "picture");
  const set = useBenchStore((state) => state.set);
  const before = useBefore(piece.id, piece.revision, ops.ops, upto);
  const thin = useThinMap(piece.id, piece.revision);
  const drawing = atPicture && ops.ops.some((op) => op.id === opId && op.on && ops.kindOf(op)?.tool);
  const addOp = (fix: Fix) => {
    set({ station: "picture" });
    ops.add(fix.kind, fix.parameters, fix.words);
  };
  return (
    <Frame
      piece={piece}
      editing={editing}
      layer={layer}
      onFix={(fix) => (onFix ? onFix(fix, editing) : addOp(fix))}
      plan={
        <PlanView
          pieceId={piece.id}
          before={before}
          thin={thin}
          marks={marks && ((geometry) => marks(editing, geometry))}
          tools={drawing ? (geometry) => <PictureTools editing={ops} geometry={geometry} /> : tools && ((geometry) => tools(editing, geometry))}
        />
      }
    >
      {cards(editing, ops)}
    </Frame>
  );
}
