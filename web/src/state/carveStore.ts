import { create } from "zustand";
import type { CarvingShown } from "../api/preview";

interface CarveState {
  /** What the Model shows of the simulated stock at Deliver; null for the piece itself. */
  shown: CarvingShown | null;
  /** Which step of the work; null for its end. */
  step: number | null;
  /** Whether the Plan shows the ways of the bits. */
  ways: boolean;
  set: (part: Partial<Omit<CarveState, "set">>) => void;
}

/** How the carving of a piece is looked at. */
export const useCarveStore = create<CarveState>()((set) => ({
  shown: "stock",
  step: null,
  ways: true,
  set,
}));
