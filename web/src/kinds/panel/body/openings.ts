import type { PanelDocument } from "../../../api/client";

export type Opening = PanelDocument["body"]["openings"][number];

/** The list with one opening changed. */
export function withOpeningChanged(openings: readonly Opening[], at: number, change: Record<string, unknown>): Opening[] {
  return openings.map((opening, i) => (i === at ? ({ ...opening, ...change } as Opening) : opening));
}
