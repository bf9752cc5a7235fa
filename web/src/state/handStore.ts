import { create } from "zustand";

type Place = readonly [number, number, number];

/** What the hand on the model is told: places in the model's own mm, and how hard a pen presses, 1 where none does. */
export interface Hand {
  move: (place: Place, pressed: boolean, pressure: number) => void;
  press: (place: Place, pressure: number) => void;
  release: () => void;
}

interface HandState {
  hand: Hand | null;
  /** While something is held or drawn, the pointer does not turn the model. */
  busy: boolean;
  /** While a stroke is drawn on the model. */
  drawing: boolean;
  set: (part: Partial<Omit<HandState, "set">>) => void;
}

/** The hand on the model, whatever it does there. */
export const useHandStore = create<HandState>()((set) => ({ hand: null, busy: false, drawing: false, set: (part) => set(part) }));
