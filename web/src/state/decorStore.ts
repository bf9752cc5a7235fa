import { create } from "zustand";
import type { Decoration, Placement, Triple } from "../api/decorations";
import { useHandStore } from "./handStore";

/**
 * What a press on the model does: lay the fresh decoration, choose faces for the chosen one, encircle some, say which way a
 * texture points, brush, or encircle or paint the region that the brush keeps to.
 */
export type Tool = "lay" | "pick" | "lasso" | "grain" | "brush" | "fence" | "paint";

/** What holds the chosen decoration: its middle, or a corner of its box. */
export type Grip = "middle" | "corner";

interface DecorState {
  /** The decoration whose fields are open. */
  chosen: string | null;
  tool: Tool | null;
  /** A decoration that is not laid yet and follows the pointer. */
  fresh: Decoration | null;
  /** How what is shown over the model would lie. */
  placement: Placement | null;
  /** Whose placement that is, as it was asked for. */
  placed: Decoration | null;
  grip: Grip | null;
  /** Whether the model shows how much the chosen decoration is stretched. */
  stretchShown: boolean;
  /** Places of the stroke or lasso that is being drawn. */
  trail: readonly Triple[];
  refusal: string | null;
  set: (part: Partial<Omit<DecorState, "set">>) => void;
}

const NOTHING = {
  chosen: null,
  tool: null,
  fresh: null,
  placement: null,
  placed: null,
  grip: null,
  stretchShown: false,
  trail: [],
  refusal: null,
};

/** What the hand does with decorations; what they are lives in the piece. */
export const useDecorStore = create<DecorState>()((set) => ({ ...NOTHING, set: (part) => set(part) }));

export function forgetDecorating(): void {
  useDecorStore.setState(NOTHING);
  useHandStore.setState({ hand: null });
}
