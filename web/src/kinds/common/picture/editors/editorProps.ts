import type { OpKind, PictureOp } from "../../../../api/ops";
import type { Ops } from "../../ops/opEdits";

export interface EditorProps {
  pieceId: string;
  revision: number;
  /** With what is being dragged. */
  op: PictureOp;
  kind: OpKind;
  /** All ops of the piece, as kept. */
  ops: Ops;
  onDrag: (parameters: Record<string, unknown>) => void;
  onKeep: (label: string, parameters: Record<string, unknown>) => void;
}
