import type { PieceCard } from "../api/client";
import type { Order } from "../state/shelfStore";

const BY: Record<Order, (one: PieceCard, other: PieceCard) => number> = {
  changed: (one, other) => other.changed.localeCompare(one.changed),
  begun: (one, other) => other.created.localeCompare(one.created),
  title: (one, other) => one.title.localeCompare(other.title, undefined, { numeric: true }),
  kind: (one, other) => one.body.localeCompare(other.body) || one.title.localeCompare(other.title, undefined, { numeric: true }),
};

/** The pieces that hold every word that is looked for, with a tag if one is chosen, in order. */
export function arranged(pieces: readonly PieceCard[], words: string, tag: string | null, order: Order): PieceCard[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (piece: PieceCard) => {
    const told = [piece.title, piece.body, piece.maker, ...piece.tags].join(" ").toLowerCase();
    return wanted.every((word) => told.includes(word)) && (tag === null || piece.tags.includes(tag));
  };
  return pieces.filter(fits).sort(BY[order]);
}

/** All tags, with how many pieces carry each, the most used first. */
export function tagsOf(pieces: readonly PieceCard[]): [string, number][] {
  const counted = new Map<string, number>();
  for (const piece of pieces) for (const tag of piece.tags) counted.set(tag, (counted.get(tag) ?? 0) + 1);
  return [...counted].sort(([a, one], [b, other]) => other - one || a.localeCompare(b));
}
