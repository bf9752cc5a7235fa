import { useCallback } from "react";
import type { AnyDocument } from "../api/client";
import { useEdit } from "../api/pieces";
import type { MergePatch } from "../api/preview";
import { useBenchStore } from "./benchStore";

export interface Editing {
  /** Show a change without keeping it. */
  drag: (change: MergePatch) => void;
  /** Keep a change as a step that can be undone; `label` names it. */
  keep: (label: string, change: MergePatch) => void;
}

/** Drafts and kept edits of one piece as it is shown. */
export function useEditing(pieceId: string, document: AnyDocument): Editing {
  const set = useBenchStore((state) => state.set);
  const { mutateAsync } = useEdit(pieceId);
  const drag = useCallback((change: MergePatch) => set({ draft: change, editRefusal: null }), [set]);
  const keep = useCallback(
    (label: string, change: MergePatch) => {
      set({ pending: { change, kept: false } });
      const newest = () => useBenchStore.getState().pending?.change === change;
      // A promise and no callbacks: an edit that makes the piece another thing takes this very component off the page.
      mutateAsync({ label, change, base: document }).then(
        ({ revision }) => {
          const here = useBenchStore.getState().revision === revision;
          set({ draft: null, refusal: null, editRefusal: null });
          if (newest()) set({ pending: here ? null : { change, kept: true } });
        },
        (error: Error) => {
          set({ draft: null, editRefusal: error.message });
          if (newest()) set({ pending: null });
        },
      );
    },
    [mutateAsync, set, document],
  );
  return { drag, keep };
}
