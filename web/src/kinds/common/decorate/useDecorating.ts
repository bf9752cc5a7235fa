import { useEffect, useMemo, useRef } from "react";
import type { WorkedDocument } from "../../../api/client";
import { fetchPlacement, type Decoration, type Placement } from "../../../api/decorations";
import { fieldNamed } from "../../../api/parts";
import { LatestWins } from "../../../state/latestWins";
import type { Editing } from "../../../state/useEditing";
import { forgetDecorating, useDecorStore } from "../../../state/decorStore";
import { useHandStore } from "../../../state/handStore";
import { handOver, type Work } from "./hand";
import { useDecorationParts } from "./useDecorationParts";

const SHOWN_COPIES = 8;

interface Request {
  decoration: Decoration;
  /** Whether it follows the pointer, and need not be exact. */
  quick: boolean;
}

/**
 * The hand on the model while decorations are worked on. What is under the pointer is asked for as fast as answers come;
 * only what is let go of is kept, as one step that can be undone.
 */
export function useDecorating(pieceId: string, document: WorkedDocument, editing: Editing): void {
  const { set } = useDecorStore.getState();
  const asking = useRef<LatestWins<Request, Placement> | null>(null);
  const chosenId = useDecorStore((state) => state.chosen);
  const chosen = useMemo(() => document.decorations.find((each) => each.id === chosenId) ?? null, [document.decorations, chosenId]);
  const { lowest, highest } = fieldNamed(useDecorationParts().decoration, "width_mm");
  const work = useMemo<Work>(
    () => ({ document, chosen, widths: [lowest ?? 0, highest ?? Infinity], keep: editing.keep }),
    [document, chosen, lowest, highest, editing],
  );
  const newest = useRef(work);
  useEffect(() => {
    newest.current = work;
  }, [work]);

  useEffect(() => {
    asking.current = new LatestWins<Request, Placement>(
      ({ decoration, quick }) => fetchPlacement(pieceId, decoration, decoration.copies.kind === "once" ? 1 : SHOWN_COPIES, quick),
      (placement, { decoration }) => {
        const { fresh, chosen: held } = useDecorStore.getState();
        if (fresh?.id === decoration.id || held === decoration.id) set({ placement, placed: decoration, refusal: null });
      },
      (error) => set({ refusal: error instanceof Error ? error.message : String(error) }),
    );
    return () => {
      asking.current?.stop();
      forgetDecorating();
    };
  }, [pieceId, set]);

  useEffect(() => {
    const { fresh, grip } = useDecorStore.getState();
    if (fresh || grip) return;
    if (chosen) asking.current?.ask({ decoration: chosen, quick: false });
    else set({ placement: null, placed: null });
  }, [chosen, set]);

  useEffect(() => {
    useHandStore.setState({ hand: handOver(() => newest.current, (decoration) => asking.current?.ask({ decoration, quick: true })) });
    const letGo = () => useHandStore.getState().hand?.release();
    const stop = (event: KeyboardEvent) => {
      if (event.key === "Escape") set({ fresh: null, tool: null, grip: null, trail: [], placement: null, placed: null });
    };
    window.addEventListener("pointerup", letGo);
    window.addEventListener("keydown", stop);
    return () => {
      window.removeEventListener("pointerup", letGo);
      window.removeEventListener("keydown", stop);
    };
  }, [pieceId, set]);
}
