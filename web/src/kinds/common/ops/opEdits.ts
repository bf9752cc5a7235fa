import type { OpKind, PictureOp } from "../../../api/ops";

export type Ops = readonly PictureOp[];

/** An op of a kind as it is when it is added. */
export function newOp(kind: OpKind, parameters: Record<string, unknown> = {}): PictureOp {
  return { kind: kind.kind, id: freshId(), on: true, ...structuredClone(kind.defaults), ...parameters };
}

function freshId(): string {
  return crypto.randomUUID().slice(0, 8);
}

export function withParameters(ops: Ops, id: string, parameters: Record<string, unknown>): PictureOp[] {
  return ops.map((op) => (op.id === id ? { ...op, ...parameters } : op));
}

export function without(ops: Ops, id: string): PictureOp[] {
  return ops.filter((op) => op.id !== id);
}

/** A copy right after the original, and its id. */
export function withCopy(ops: Ops, id: string): { ops: PictureOp[]; id: string } {
  const at = ops.findIndex((op) => op.id === id);
  const copy = { ...structuredClone(ops[at] as PictureOp), id: freshId() };
  return { ops: [...ops.slice(0, at + 1), copy, ...ops.slice(at + 1)], id: copy.id };
}

/** The op moved to stand at place `to`; places outside the list mean its ends. */
export function moved(ops: Ops, id: string, to: number): PictureOp[] {
  const op = ops.find((each) => each.id === id);
  if (!op) return [...ops];
  const rest = without(ops, id);
  const place = Math.min(rest.length, Math.max(0, to));
  return [...rest.slice(0, place), op, ...rest.slice(place)];
}

/** Where an added op belongs: what repairs the file itself comes first, everything else last. */
export function withAdded(ops: Ops, op: PictureOp): PictureOp[] {
  return op.kind === "deblock" ? [op, ...ops] : [...ops, op];
}

/** The id of the op before, "" for the source. */
export function idBefore(ops: Ops, id: string): string {
  const at = ops.findIndex((op) => op.id === id);
  return at > 0 ? (ops[at - 1]?.id ?? "") : "";
}
