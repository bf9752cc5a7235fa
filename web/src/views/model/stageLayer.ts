import type { ComponentType } from "react";

/** What is drawn inside the stage: over coordinates less `low`, on a piece that reaches `reach` mm. */
export type StageLayer = ComponentType<{ low: readonly [number, number, number]; reach: number }>;
