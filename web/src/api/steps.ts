import { answered, api } from "./client";
import type { MergePatch } from "./preview";
import type { components } from "./schema";

export type StepTables = components["schemas"]["StepTables"];

/** How much of the picture falls on every step, and the steps that its tones suggest. */
export function fetchSteps(pieceId: string, change: MergePatch): Promise<StepTables> {
  return answered(
    api.POST("/api/pieces/{piece_id}/steps", {
      params: { path: { piece_id: pieceId } },
      body: { change, longest_px: 720 },
    }),
  );
}
