import { useEffect, useRef } from "react";
import type { Spot } from "../../state/benchStore";
import { usePartsStore } from "../../state/partsStore";
import type { PlacedPart } from "./assemblyEdits";

/** Lets the hand in the Model hold the parts that are shown, for as long as they are worked on. */
export function useHeldParts(parts: readonly PlacedPart[], onMove: (id: string, by: Spot) => void): void {
  const set = usePartsStore((state) => state.set);
  const latest = useRef(onMove);
  useEffect(() => {
    latest.current = onMove;
  });
  useEffect(() => {
    const shown = parts.filter(({ on }) => on);
    set({ parts: shown.map(({ id, name, x_mm, y_mm, z_mm, stands }) => ({ id, name, x_mm, y_mm, z_mm: stands === "free" ? z_mm : 0 })) });
  }, [parts, set]);
  useEffect(() => {
    set({ move: (id, by) => latest.current(id, by) });
    return () => set({ parts: [], move: null });
  }, [set]);
}
