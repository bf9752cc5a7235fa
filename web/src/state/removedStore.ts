import { create } from "zustand";
import type { PieceCard } from "../api/client";

interface RemovedState {
  last: PieceCard | null;
  set: (last: PieceCard | null) => void;
}

/** The piece that was last taken off the shelf, so that it can be put back. */
export const useRemoved = create<RemovedState>()((set) => ({ last: null, set: (last) => set({ last }) }));
