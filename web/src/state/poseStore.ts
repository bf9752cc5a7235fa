import { create } from "zustand";

/** Degrees about X, then Y, then Z. */
export type Turn = readonly [number, number, number];

interface PoseState {
  /** How the model is being turned: by rings, or by pointing at the face that is to lie below. */
  mode: "rings" | "face" | null;
  /** Keeps a turn as a step. */
  keep: ((turn: Turn) => void) | null;
  set: (part: Partial<Omit<PoseState, "set">>) => void;
}

/** Turning the model by hand, in the Model itself. */
export const usePoseStore = create<PoseState>()((set) => ({ mode: null, keep: null, set: (part) => set(part) }));
