import { create } from "zustand";
import type { FigureStroke } from "../api/client";

interface FigureState {
  /** What the next stroke over the Plan does; null while none is drawn. */
  kind: FigureStroke["kind"] | null;
  amountMm: number;
  set: (part: Partial<Omit<FigureState, "set">>) => void;
}

/** The stroke at hand over a figure; it is as wide as the brush of the Plan. */
export const useFigureStore = create<FigureState>()((set) => ({ kind: null, amountMm: 6, set: (part) => set(part) }));
