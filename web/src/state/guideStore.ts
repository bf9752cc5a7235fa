import { create } from "zustand";

interface GuideState {
  /** The piece that is made step by step, or null where nobody is guided. */
  pieceId: string | null;
  begin: (pieceId: string) => void;
  end: () => void;
}

/** The guided first piece. */
export const useGuideStore = create<GuideState>()((set) => ({
  pieceId: null,
  begin: (pieceId) => set({ pieceId }),
  end: () => set({ pieceId: null }),
}));
