import { create } from "zustand";
import type { HeightStroke } from "../api/client";

interface ModellingState {
  /** What the next stroke over the heights does; null while none is drawn. */
  tool: HeightStroke["tool"] | null;
  /** How it does that; its width is that of the brush of the Plan. */
  how: Pick<HeightStroke, "amount_mm" | "strength" | "hardness" | "profile" | "mirror">;
  set: (part: Partial<Omit<ModellingState, "set">>) => void;
}

/** The stroke at hand over the heights of a piece. */
export const useModellingStore = create<ModellingState>()((set) => ({
  tool: null,
  how: { amount_mm: 0.3, strength: 0.5, hardness: 0.3, profile: "V", mirror: "none" },
  set: (part) => set(part),
}));
