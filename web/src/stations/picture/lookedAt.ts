import type { OpKind, PictureOp } from "../../api/ops";
import { idBefore, type Ops } from "./opEdits";

/** Where the Plan looks while an op is worked on: at what comes into it, what it leaves, or the finished picture. */
export type Look = "in" | "out" | "end";

/** The id of the op after which the Plan looks, "" for the source, null for the finished picture. */
export function lookedAt(ops: Ops, opId: string | null, look: Look): string | null {
  const op = ops.find((each) => each.id === opId);
  if (!op || look === "end") return null;
  return look === "in" ? idBefore(ops, op.id) : op.id;
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
    case "spot":
      return "out";
    default:
      return "end";
  }
}
