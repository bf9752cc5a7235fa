import type { FigureStroke } from "../../../api/client";

/** Warm comes nearer or grows, cold goes back or shrinks, dark shapes the front. */
export const STROKE_COLOURS: Record<FigureStroke["kind"], string> = {
  nearer: "#c4632d",
  farther: "#2c5c96",
  level: "#7a5ea8",
  thicker: "#b98a1f",
  thinner: "#3f8aa0",
  ridge: "#7c3b1c",
  crease: "#25465c",
  flat: "#5b6a4a",
  hole: "#2a2d2e",
};

/** Parts that are marked for the list. */
export const MARK_COLOUR = "#2a2d2e";
