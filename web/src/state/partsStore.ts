import { create } from "zustand";
import type { Spot } from "./benchStore";

/** A part of a whole as it is held in the Model. */
export interface HeldPart {
  id: string;
  name: string;
  x_mm: number;
  y_mm: number;
  /** Height of its foot, where it stands free. */
  z_mm: number;
}

interface PartsState {
  parts: readonly HeldPart[];
  /** Keeps that a part was moved by so much. */
  move: ((id: string, by: Spot) => void) | null;
  set: (part: Partial<Omit<PartsState, "set">>) => void;
}

/** The parts of a whole, for the hand in the Model. */
export const usePartsStore = create<PartsState>()((set) => ({ parts: [], move: null, set: (part) => set(part) }));
