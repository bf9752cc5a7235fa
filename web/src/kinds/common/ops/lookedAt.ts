import type { PicturedDocument } from "../../../api/client";
import { opsOf, preparedId, type OpKind, type PictureOp } from "../../../api/ops";
import type { Look } from "../../../state/benchStore";
import { idBefore, type Ops } from "./opEdits";


/** The id of the op after which the Plan looks, "" for the source, null for the finished picture. */
export function lookedAt(ops: Ops, opId: string | null, look: Look): string | null {
  const op = ops.find((each) => each.id === opId);
  if (!op || look === "end") return null;
  return look === "in" ? idBefore(ops, op.id) : op.id;
}

/** The same on a piece that is not its picture: there the finished picture is what its ops leave. */
export function lookedAtSource(document: PicturedDocument, { opId, look }: { opId: string | null; look: Look }): string {
  return lookedAt(opsOf(document), opId, look) ?? preparedId(document);
}

/** Frames and marks are drawn on what comes in, brushes on what they leave; everything else is judged by the end. */
export function firstLook(op: PictureOp | null, kind: OpKind | undefined): Look {
  switch (op && kind?.tool) {
    case "box":
    case "corners":
      return "in";
    case "marks":
      return op?.by === "marks" ? "in" : "out";
    case "brush":
    case "points":
    case "spot":
      return "out";
    default:
      return "end";
  }
}
