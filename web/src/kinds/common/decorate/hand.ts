import type { WorkedDocument } from "../../../api/client";
import type { Decoration, Triple } from "../../../api/decorations";
import { freshStroke, heldByCorner, minus, plus, thinned, thinnedAt, withDecoration } from "./decorations";
import { howOver, useBrush } from "../../../state/brushStore";
import { useDecorStore } from "../../../state/decorStore";
import type { Hand } from "../../../state/handStore";

const MOST_PLACES = 400;
const MOST_REGION = 200;

/** What the hand works on, as it is now. */
export interface Work {
  document: WorkedDocument;
  chosen: Decoration | null;
  /** The narrowest and the widest that a decoration may be, mm. */
  widths: readonly [number, number];
  keep: (label: string, change: Partial<Pick<WorkedDocument, "decorations" | "strokes">>) => void;
}

/** A hand over the model: it asks where what it holds would lie, and keeps what is let go of as one step. */
export function handOver(work: () => Work, ask: (decoration: Decoration) => void): Hand {
  const { set } = useDecorStore.getState();
  let pressedAt: Triple | null = null;
  // Answers come a moment later; what is let go of is kept as it was held last.
  let held: Decoration | null = null;
  let pressures: number[] = [];
  const hold = (decoration: Decoration) => {
    held = decoration;
    ask(decoration);
  };
  return {
    move(place, pressed, pressure) {
      const { fresh, tool, grip, placement, trail } = useDecorStore.getState();
      const { chosen, widths } = work();
      if (fresh && tool === "lay") ask({ ...fresh, at: [...place] as [number, number, number] });
      else if (tool && tool !== "lay" && pressed && trail.length > 0) {
        pressures.push(pressure);
        set({ trail: [...trail, place] });
      }
      else if (grip && chosen && placement && pressed) {
        pressedAt ??= place;
        if (grip === "corner") hold({ ...chosen, ...heldByCorner(chosen, { ...placement.head, at: chosen.at }, pressedAt, place, widths) });
        else hold({ ...chosen, at: plus(chosen.at, minus(place, pressedAt)) as [number, number, number] });
      }
    },
    press(place, pressure) {
      const { fresh, tool, grip } = useDecorStore.getState();
      const { document, keep } = work();
      pressedAt = place;
      held = null;
      if (fresh && tool === "lay") {
        const laid: Decoration = { ...fresh, at: [...place] as [number, number, number] };
        set({ fresh: null, tool: null, chosen: laid.id });
        keep(`Laid on: ${laid.art.name}`, { decorations: [...document.decorations, laid] });
      } else if (tool && !grip) {
        pressures = [pressure];
        set({ trail: [place] });
      }
    },
    release() {
      const { grip, trail } = useDecorStore.getState();
      const now = work();
      pressedAt = null;
      if (grip) {
        set({ grip: null });
        if (held && held.id === now.chosen?.id) keepHeld(now, held, grip === "corner" ? "turned and sized" : "moved");
      } else if (trail.length) {
        set({ trail: [] });
        keepTrail(now, trail, pressures);
      }
      held = null;
    },
  };
}

function keepHeld({ document, keep }: Work, { id, art, at, width_mm, turn_deg }: Decoration, what: string): void {
  keep(`${art.name} ${what}`, { decorations: withDecoration(document.decorations, id, { at, width_mm, turn_deg }) });
}

function keepTrail({ document, chosen, keep }: Work, trail: readonly Triple[], pressures: readonly number[]): void {
  const { tool, set } = useDecorStore.getState();
  const { how: chosenHow, choose } = useBrush.getState();
  const how = howOver(chosenHow, document.decorations);
  if (tool === "brush") {
    const chosenAt = thinnedAt(trail, how.radius_mm / 6, MOST_PLACES);
    const stroke = freshStroke(how, chosenAt.flatMap((at) => trail.slice(at, at + 1)), chosenAt.map((at) => pressures[at] ?? 1));
    keep(`Brush: ${how.tool}`, { strokes: [...document.strokes, stroke] });
  } else if (tool === "fence" && trail.length > 2) {
    choose({ region: { ...how.region, kind: "lasso", places: kept(thinned(trail, 0, MOST_REGION)) } });
    set({ tool: "brush" });
  } else if (tool === "paint") {
    const { region, radius_mm } = how;
    const before = region.kind === "brush" ? region.places : [];
    const places = kept(thinned([...before, ...trail], radius_mm / 3, MOST_REGION));
    choose({ region: { ...region, kind: "brush", radius_mm: region.kind === "brush" ? region.radius_mm : radius_mm, places } });
  } else if (tool === "lasso" && chosen && trail.length > 2) {
    const pick = { ...chosen.pick, kind: "lasso" as const, places: kept(thinned(trail, 0, MOST_PLACES)) };
    set({ tool: null });
    keep(`${chosen.art.name}: region encircled`, { decorations: withDecoration(document.decorations, chosen.id, { pick }) });
  } else if (tool === "grain" && chosen && trail.length > 1) {
    const stroke = { places: kept(thinned(trail, 0, MOST_PLACES)) };
    keep(`${chosen.art.name}: direction drawn`, { decorations: withDecoration(document.decorations, chosen.id, { grain: [...chosen.grain, stroke] }) });
  } else if (tool === "pick" && chosen) {
    const { pick } = chosen;
    const places = kept([...pick.places, ...thinned(trail, pick.kind === "brush" ? pick.radius_mm / 3 : 1e6, MOST_PLACES)]);
    keep(`${chosen.art.name}: region picked`, { decorations: withDecoration(document.decorations, chosen.id, { pick: { ...pick, places } }) });
  }
}

function kept(places: readonly Triple[]): [number, number, number][] {
  return places.map((place) => [...place] as [number, number, number]);
}
