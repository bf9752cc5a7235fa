import { create } from "zustand";

interface Progress {
  pieceId: string | null;
  stage: string;
  fraction: number;
}

/** How far the server is with a preview that takes noticeably long; no piece when none does. */
export const useProgress = create<Progress>()(() => ({ pieceId: null, stage: "", fraction: 0 }));
