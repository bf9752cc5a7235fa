import { useEffect, type KeyboardEvent, type PointerEvent } from "react";
import { useBenchStore } from "../../state/benchStore";

const LEAST_PX = 90;
/** Of the window: the views above need room too. */
const MOST_SHARE = 0.6;
const FIRST_SHARE = 0.26;
/** Layers are seen from above, so they need more. */
const LAYERS_SHARE = 0.46;
const FOLDED_PX = 30;
const STEP_PX = 24;

/** How tall the section is: dragged at its upper edge, stepped by the arrow keys, or folded to its name. */
export function useSectionHeight() {
  const chosen = useBenchStore((state) => state.sectionPx);
  const folded = useBenchStore((state) => state.sectionFolded);
  const set = useBenchStore((state) => state.set);
  const byLayers = useBenchStore((state) => state.byLayers);
  const share = byLayers ? LAYERS_SHARE : FIRST_SHARE;
  const most = Math.round(window.innerHeight * MOST_SHARE);
  const height = Math.min(most, Math.max(LEAST_PX, chosen ?? Math.round(window.innerHeight * share)));
  useEffect(() => {
    document.documentElement.style.setProperty("--section-height", `${folded ? FOLDED_PX : height}px`);
  }, [folded, height]);
  const take = (px: number) => set({ sectionPx: Math.min(most, Math.max(LEAST_PX, Math.round(px))) });
  return {
    folded,
    setFolded: (sectionFolded: boolean) => set({ sectionFolded }),
    role: "separator",
    tabIndex: 0,
    "aria-orientation": "horizontal" as const,
    "aria-label": "Height of the section",
    "aria-valuenow": height,
    "aria-valuemin": LEAST_PX,
    "aria-valuemax": most,
    title: "Drag, or use the arrow keys, to make the section taller",
    onPointerDown: (event: PointerEvent<HTMLElement>) => event.currentTarget.setPointerCapture(event.pointerId),
    onPointerMove: (event: PointerEvent<HTMLElement>) => {
      if (event.currentTarget.hasPointerCapture(event.pointerId)) take(window.innerHeight - event.clientY);
    },
    onKeyDown: (event: KeyboardEvent<HTMLElement>) => {
      const by = { ArrowUp: STEP_PX, ArrowDown: -STEP_PX }[event.key];
      if (!by) return;
      event.preventDefault();
      take(height + by);
    },
  };
}
