import { useCallback } from "react";
import { useEdit } from "../api/pieces";
import type { MergePatch } from "../api/preview";
import { useBenchStore } from "./benchStore";

export interface Editing {
  /** Show a change without keeping it. */
  drag: (change: MergePatch) => void;
  /** Keep a change as a step that can be undone; `label` names it. */
  keep: (label: string, change: MergePatch) => void;
}

/** Drafts and kept edits of one piece. */
export function useEditing(pieceId: string): Editing {
  const set = useBenchStore((state) => state.set);
  const { mutate } = useEdit(pieceId);
  const drag = useCallback((change: MergePatch) => set({ draft: change, editRefusal: null }), [set]);
  const keep = useCallback(
    (label: string, change: MergePatch) => {
      set({ pending: change });
      const settled = () => (useBenchStore.getState().pending === change ? { pending: null } : {});
      mutate(
        { label, change },
        {
          onSuccess: () => set({ draft: null, refusal: null, editRefusal: null, ...settled() }),
          onError: (error) => set({ draft: null, editRefusal: error.message, ...settled() }),
        },
      );
    },
    [mutate, set],
  );
  return { drag, keep };
}
