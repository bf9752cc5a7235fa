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
  const drag = useCallback((change: MergePatch) => set({ draft: change }), [set]);
  const keep = useCallback(
    (label: string, change: MergePatch) =>
      mutate(
        { label, change },
        {
          onSuccess: () => set({ draft: null, refusal: null }),
          onError: (error) => set({ draft: null, refusal: error.message }),
        },
      ),
    [mutate, set],
  );
  return { drag, keep };
}
