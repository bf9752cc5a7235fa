import { useEffect, useMemo, useRef } from "react";
import type { ModelDocument } from "../../api/client";
import { fetchPlacement, type Decoration, type Placement, type Triple } from "../../api/decorations";
import { LatestWins } from "../../bench/latestWins";
import type { Editing } from "../../bench/useEditing";
import { freshStroke, heldByCorner, minus, plus, thinned, withDecoration } from "./decorations";
import { forgetDecorating, useDecorStore } from "./decorStore";
import { useBrush } from "./brushStore";

const SHOWN_COPIES = 8;
const MOST_PLACES = 400;

interface Request {
  decoration: Decoration;
  /** Whether it follows the pointer, and need not be exact. */
  quick: boolean;
}

/**
 * The hand on the model while decorations are worked on. What is under the pointer is asked for as fast as answers come;
 * only what is let go of is kept, as one step that can be undone.
 */
export function useDecorating(pieceId: string, document: ModelDocument, editing: Editing): void {
  const { set } = useDecorStore.getState();
  const asking = useRef<LatestWins<Request, Placement> | null>(null);
  const chosenId = useDecorStore((state) => state.chosen);
  const chosen = useMemo(() => document.decorations.find((each) => each.id === chosenId) ?? null, [document.decorations, chosenId]);
  const newest = useRef({ document, editing, chosen });
  useEffect(() => {
    newest.current = { document, editing, chosen };
  }, [document, editing, chosen]);

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
    set({ hand: handOver(newest, (decoration) => asking.current?.ask({ decoration, quick: true })) });
    const letGo = () => useDecorStore.getState().hand?.release();
    const stop = (event: KeyboardEvent) => {
      if (event.key === "Escape") set({ fresh: null, tool: null, grip: null, trail: [], placement: null, placed: null });
    };
    window.addEventListener("pointerup", letGo);
    window.addEventListener("keydown", stop);
    return () => {
      window.removeEventListener("pointerup", letGo);
      window.removeEventListener("keydown", stop);
    };
  }, [set]);
}

interface Newest {
  document: ModelDocument;
  editing: Editing;
  chosen: Decoration | null;
}

function handOver(newest: { current: Newest }, ask: (decoration: Decoration) => void) {
  const { set } = useDecorStore.getState();
  let pressedAt: Triple | null = null;
  return {
    move(place: Triple, pressed: boolean) {
      const { fresh, tool, grip, placed, placement, trail } = useDecorStore.getState();
      const { chosen } = newest.current;
      if (fresh && tool === "lay") ask({ ...fresh, at: [...place] as [number, number, number] });
      else if (tool && tool !== "lay" && pressed && trail.length > 0) set({ trail: [...trail, place] });
      else if (grip && chosen && placement && pressed) {
        pressedAt ??= place;
        const base = chosen;
        if (grip === "corner") ask({ ...base, ...heldByCorner(base, { ...placement.head, at: base.at }, pressedAt, place) });
        else ask({ ...(placed ?? base), at: plus(base.at, minus(place, pressedAt)) as [number, number, number] });
      }
    },
    press(place: Triple) {
      const { fresh, tool, grip } = useDecorStore.getState();
      const { document, editing } = newest.current;
      pressedAt = place;
      if (fresh && tool === "lay") {
        const laid: Decoration = { ...fresh, at: [...place] as [number, number, number] };
        set({ fresh: null, tool: null, chosen: laid.id });
        editing.keep(`Laid on: ${laid.art.name}`, { decorations: [...document.decorations, laid] });
      } else if (tool && !grip) set({ trail: [place] });
    },
    release() {
      const { tool, grip, placed, trail } = useDecorStore.getState();
      const { document, editing, chosen } = newest.current;
      pressedAt = null;
      if (grip) {
        set({ grip: null });
        if (chosen && placed?.id === chosen.id && placed !== chosen) {
          const change = { at: placed.at, width_mm: placed.width_mm, turn_deg: placed.turn_deg };
          editing.keep(`${chosen.art.name} ${grip === "corner" ? "turned and sized" : "moved"}`, { decorations: withDecoration(document.decorations, chosen.id, change) });
        }
        return;
      }
      if (!trail.length) return;
      set({ trail: [] });
      if (tool === "brush") {
        const { tool: brush, radiusMm, strength } = useBrush.getState();
        const stroke = freshStroke(brush, thinned(trail, radiusMm / 6, MOST_PLACES), radiusMm, strength);
        editing.keep(`Brush: ${brush}`, { strokes: [...document.strokes, stroke] });
      } else if (tool === "lasso" && chosen && trail.length > 2) {
        const places = thinned(trail, 0, MOST_PLACES) as [number, number, number][];
        const pick = { ...chosen.pick, kind: "lasso" as const, places };
        set({ tool: null });
        editing.keep(`${chosen.art.name}: region encircled`, { decorations: withDecoration(document.decorations, chosen.id, { pick }) });
      } else if (tool === "pick" && chosen) {
        const { pick } = chosen;
        const places = [...pick.places, ...thinned(trail, pick.kind === "brush" ? pick.radius_mm / 3 : 1e6, MOST_PLACES)];
        editing.keep(`${chosen.art.name}: region picked`, {
          decorations: withDecoration(document.decorations, chosen.id, { pick: { ...pick, places: places as [number, number, number][] } }),
        });
      }
    },
  };
}
