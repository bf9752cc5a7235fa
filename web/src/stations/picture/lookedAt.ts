import type { Tool } from "../../api/ops";
import { idBefore, type Ops } from "./opEdits";

/** Where the Plan looks while an op is worked on: at what comes into it, what it leaves, or the finished picture. */
export type Look = "in" | "out" | "end";

/** The id of the op after which the Plan looks, "" for the source, null for the finished picture. */
export function lookedAt(ops: Ops, opId: string | null, look: Look): string | null {
  const op = ops.find((each) => each.id === opId);
  if (!op || look === "end") return null;
  return look === "in" ? idBefore(ops, op.id) : op.id;
}

/** Frames are drawn on what comes in, brushes on what they leave; everything else is judged by the end. */
export function firstLook(tool: Tool | null | undefined): Look {
  if (tool === "box" || tool === "corners") return "in";
  return tool === "brush" || tool === "spot" || tool === "marks" ? "out" : "end";
}
