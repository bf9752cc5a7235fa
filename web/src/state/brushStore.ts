import { create } from "zustand";
import type { Stroke } from "../api/decorations";

interface BrushState {
  tool: Stroke["tool"];
  radiusMm: number;
  strength: number;
  set: (part: Partial<Omit<BrushState, "set">>) => void;
}

/** The brush that finishes decorations. */
export const useBrush = create<BrushState>()((set) => ({ tool: "smooth", radiusMm: 3, strength: 0.5, set: (part) => set(part) }));
