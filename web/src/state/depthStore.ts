import { create } from "zustand";
import type { FigureStroke } from "../api/client";

interface DepthState {
  /** What the next stroke over the Plan does; null while none is drawn. */
  kind: FigureStroke["kind"] | null;
  amountMm: number;
  /** Whether the next press on the Plan marks a part of the list. */
  marking: boolean;
  /** Whether the Plan shows where depth is unsure. */
  showUnsure: boolean;
  set: (part: Partial<Omit<DepthState, "set">>) => void;
}

/** The stroke at hand over a figure, which is as wide as the brush of the Plan; and what else the Plan shows of it. */
export const useDepthStore = create<DepthState>()((set) => ({ kind: null, amountMm: 6, marking: false, showUnsure: false, set: (part) => set(part) }));
