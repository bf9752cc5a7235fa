import { create } from "zustand";
import type { Stroke } from "../api/decorations";

/** How a stroke works, wherever it goes. */
export type BrushHow = Pick<Stroke, "tool" | "within" | "most_deg" | "radius_mm" | "strength" | "amount_mm" | "profile" | "mirror" | "region">;

interface BrushState {
  how: BrushHow;
  choose: (part: Partial<BrushHow>) => void;
}

const FIRST: BrushHow = { tool: "smooth", within: "decorations", most_deg: 30, radius_mm: 3, strength: 0.5, amount_mm: 0, profile: "V", mirror: false, region: { kind: "free", places: [], most_deg: 30, radius_mm: 3 } };

/** How a stroke works on a piece: where nothing is laid on, not on that alone. */
export function howOver(how: BrushHow, decorations: readonly unknown[]): BrushHow {
  return decorations.length === 0 && how.within === "decorations" ? { ...how, within: "everywhere" } : how;
}

/** The brush over a model and its decorations. */
export const useBrush = create<BrushState>()((set, get) => ({ how: FIRST, choose: (part) => set({ how: { ...get().how, ...part } }) }));
