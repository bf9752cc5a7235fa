import { useCallback, useEffect, useMemo, useRef } from "react";
import type { AnyDocument, HeightStroke } from "../../../api/client";
import { useBenchStore } from "../../../state/benchStore";
import { useHandStore } from "../../../state/handStore";
import { useModellingStore } from "../../../state/modellingStore";
import { usePartSchemas } from "../../../state/partSchemas";
import { usePlan } from "../../../state/previews";
import type { Editing } from "../../../state/useEditing";
import { patchAt } from "../fields/patchAt";
import { valueAt } from "../fields/valueAt";
import { newRow } from "../fields/newRow";
import { MOST_PLACES } from "../picture/tools/strokes";

export type Places = readonly (readonly [number, number, number])[];

export interface Modelling {
  /** Show a stroke that is still drawn. */
  draw: (places: Places) => void;
  /** Keep it, as one step that can be undone. */
  keep: (places: Places) => void;
}

/** Strokes over heights, as they are drawn and kept: over the Plan, and by the hand on the Model where that is not bent. */
export function useModelling(document: AnyDocument, editing: Editing, at: string, onModel = true): Modelling {
  const part = usePartSchemas().named("HeightStroke");
  const size = usePlan()?.head.size_mm;
  const tool = useModellingStore((state) => state.tool);
  const id = useRef("");
  const drawn = useCallback(
    (places: Places) => {
      const { tool: own, how } = useModellingStore.getState();
      id.current ||= String(newRow(part).id);
      const stroke = newRow(part, { ...how, id: id.current, tool: own, size_mm: useBenchStore.getState().brush.sizeMm, places }) as unknown as HeightStroke;
      return patchAt(at, [...(valueAt(document, at) as readonly HeightStroke[]), stroke]);
    },
    [part, at, document],
  );
  const modelling = useMemo<Modelling>(
    () => ({
      draw: (places) => editing.drag(drawn(places)),
      keep: (places) => {
        const tools = part.fields.find(({ name }) => name === "tool")?.choices ?? {};
        const own = useModellingStore.getState().tool ?? "";
        editing.keep(tools[own] ?? own, drawn(places));
        id.current = "";
      },
    }),
    [drawn, editing, part],
  );
  const newest = useRef({ modelling, size });
  useEffect(() => {
    newest.current = { modelling, size };
  }, [modelling, size]);
  useEffect(() => {
    const { set } = useHandStore.getState();
    if (!tool || !onModel) return;
    let places: [number, number, number][] | null = null;
    const add = ([x, y]: readonly [number, number, number], pressure: number) => {
      const [width, depth] = newest.current.size ?? [1, 1];
      if (places && places.length < MOST_PLACES) places.push([x / width, y / depth, pressure]);
    };
    const release = () => {
      if (places?.length) newest.current.modelling.keep(places);
      places = null;
      set({ drawing: false });
    };
    set({
      busy: true,
      hand: {
        press: (place, pressure) => {
          places = [];
          set({ drawing: true });
          add(place, pressure);
          newest.current.modelling.draw([...places]);
        },
        move: (place, pressed, pressure) => {
          if (!places || !pressed) return;
          add(place, pressure);
          newest.current.modelling.draw([...places]);
        },
        release,
      },
    });
    window.addEventListener("pointerup", release);
    return () => {
      window.removeEventListener("pointerup", release);
      set({ busy: false, hand: null, drawing: false });
    };
  }, [tool, onModel]);
  return modelling;
}
