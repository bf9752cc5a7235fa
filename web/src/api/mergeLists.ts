import type { AnyDocument } from "./client";

interface Item {
  id: string;
}

/** Lists of a document whose items are told apart by their ids. */
const LISTS = ["ops", "steps", "mend", "decorations", "strokes"] as const;

/** An edit made on `base`, to be laid on what the piece is `now`: lists that it holds whole are put together. */
export function mergedLists(base: AnyDocument, change: Readonly<Record<string, unknown>>, now: AnyDocument): Record<string, unknown> {
  const whole: Record<string, unknown> = { ...change };
  for (const name of LISTS) {
    const [was, mine, theirs] = [listIn(base, name), listIn(change, name), listIn(now, name)];
    if (was && mine && theirs) whole[name] = mergedItems(was, mine, theirs);
  }
  return whole;
}

function listIn(part: object, name: string): readonly Item[] | null {
  const found = (part as Record<string, unknown>)[name];
  if (!Array.isArray(found)) return null;
  const items = found as Item[];
  // Without ids nobody can tell which is which.
  return items.every(({ id }) => id) && new Set(ids(items)).size === items.length ? items : null;
}

/**
 * A list edited on two pages at once: `mine` and `theirs` both come from `base`. Of an item that both changed, mine
 * counts; what either added stays; what either removed goes, unless the other changed it.
 */
export function mergedItems<Kind extends Item>(base: readonly Kind[], mine: readonly Kind[], theirs: readonly Kind[]): Kind[] {
  const [inBase, inMine, inTheirs] = [byId(base), byId(mine), byId(theirs)];
  const changed = (item: Kind | undefined) => item !== undefined && !same(item, inBase.get(item.id));
  const moved = !same(ids(mine.filter((item) => inBase.has(item.id))), ids(base.filter((item) => inMine.has(item.id))));
  const [lead, other] = moved ? [mine, theirs] : [theirs, mine];
  const order = ids(lead);
  other.forEach((item, at) => {
    if (!order.includes(item.id)) order.splice(order.indexOf(other[at - 1]?.id ?? "") + 1, 0, item.id);
  });
  return order.flatMap((id) => {
    const [was, my, their] = [inBase.get(id), inMine.get(id), inTheirs.get(id)];
    const removed = was !== undefined && (my === undefined || their === undefined) && !changed(my) && !changed(their);
    const kept = changed(my) ? my : (their ?? my);
    return removed || !kept ? [] : [kept];
  });
}

function byId<Kind extends Item>(items: readonly Kind[]): Map<string, Kind> {
  return new Map(items.map((item) => [item.id, item]));
}

function ids(items: readonly Item[]): string[] {
  return items.map((item) => item.id);
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
