import { create } from "zustand";

/** A place in shares of the source's width, from its lower left corner. */
export type SharePlace = [number, number];

export type Mode = "outlines" | "nodes";

interface OutlineState {
  /** Whether presses on the Plan choose whole outlines or single nodes. */
  mode: Mode;
  /** Numbers of the chosen outlines. */
  chosen: readonly number[];
  /** The node that is worked on: its outline and its place. */
  node: { curve: number; place: SharePlace } | null;
  /** Where the Plan was pressed last. */
  pressed: SharePlace | null;
  set: (part: Partial<Omit<OutlineState, "set">>) => void;
}

/** What is chosen at the Outlines station. */
export const useOutlineStore = create<OutlineState>()((set) => ({
  mode: "outlines",
  chosen: [],
  node: null,
  pressed: null,
  set: (part) => set(part),
}));

/** The choice after a press on one outline; with `more`, others stay chosen. */
export function withPressed(chosen: readonly number[], number: number, more: boolean): readonly number[] {
  if (!more) return [number];
  return chosen.includes(number) ? chosen.filter((other) => other !== number) : [...chosen, number];
}
