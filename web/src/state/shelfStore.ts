import { create } from "zustand";

export type Order = "changed" | "begun" | "title" | "kind";

interface ShelfState {
  words: string;
  tag: string | null;
  order: Order;
  /** Ids of the pieces that are chosen; null while none are being chosen. */
  chosen: ReadonlySet<string> | null;
  set: (part: Partial<Omit<ShelfState, "set">>) => void;
}

/** What of the shelf is looked at, in which order, and what is chosen there. */
export const useShelfStore = create<ShelfState>()((set) => ({
  words: "",
  tag: null,
  order: "changed",
  chosen: null,
  set: (part) => set(part),
}));
