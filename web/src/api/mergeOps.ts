import type { PictureOp } from "./ops";

type Ops = readonly PictureOp[];

/**
 * A list of ops edited on two pages at once: `mine` and `theirs` both come from `base`. Of an op that both changed, mine
 * counts; what either added stays; what either removed goes, unless the other changed it.
 */
export function mergedOps(base: Ops, mine: Ops, theirs: Ops): PictureOp[] {
  const [inBase, inMine, inTheirs] = [byId(base), byId(mine), byId(theirs)];
  const changed = (op: PictureOp | undefined) => op !== undefined && !same(op, inBase.get(op.id));
  const moved = !same(ids(mine.filter((op) => inBase.has(op.id))), ids(base.filter((op) => inMine.has(op.id))));
  const [lead, other] = moved ? [mine, theirs] : [theirs, mine];
  const order = ids(lead);
  other.forEach((op, at) => {
    if (!order.includes(op.id)) order.splice(order.indexOf(other[at - 1]?.id ?? "") + 1, 0, op.id);
  });
  return order.flatMap((id) => {
    const [was, my, their] = [inBase.get(id), inMine.get(id), inTheirs.get(id)];
    const removed = was !== undefined && (my === undefined || their === undefined) && !changed(my) && !changed(their);
    const kept = changed(my) ? my : (their ?? my);
    return removed || !kept ? [] : [kept];
  });
}

function byId(ops: Ops): Map<string, PictureOp> {
  return new Map(ops.map((op) => [op.id, op]));
}

function ids(ops: Ops): string[] {
  return ops.map((op) => op.id);
}

function same(one: unknown, two: unknown): boolean {
  return sorted(one) === sorted(two);
}

/** As text that does not depend on the order of keys, which is the server's own. */
function sorted(value: unknown): string {
  return JSON.stringify(value, (_, part: unknown) =>
    typeof part === "object" && part !== null && !Array.isArray(part) ? Object.fromEntries(Object.entries(part).sort()) : part,
  );
}
