import { createContext, useContext, useMemo, type ReactNode } from "react";
import type { Finding } from "../api/client";
import type { ShadedSolid } from "../api/preview";
import { useBenchStore, type Spot } from "./benchStore";
import type { Previews } from "./usePreviewQueries";

export type Rgb = readonly [number, number, number];

/** How a lithophane lets light through and what light it is in; colours are linear. */
export interface TransmissionLook {
  attenuation: number;
  thinnest: number;
  thickest: number;
  /** Of the lamp behind the material, the largest part 1. */
  tint: Rgb;
  power: number;
  /** Light of the room, as a share of what makes white paper white. */
  ambient: number;
}

export interface Shown extends Previews {
  /** How the piece lets light through, and the light it is in; null where it does not. */
  transmission: TransmissionLook | null;
  /** Whether the plan shows what the solid comes from, which is not laid out as the solid is. */
  atSource: boolean;
}

const NOTHING: Shown = { plan: null, finishedMm: null, awaited: false, model: null, findings: [], refusal: null, transmission: null, atSource: false };
const SAME_MM = 0.5;

const PlanContext = createContext<Pick<Shown, "plan" | "finishedMm" | "awaited" | "refusal">>(NOTHING);
const ModelContext = createContext<ShadedSolid | null>(null);
const FindingsContext = createContext<readonly Finding[]>([]);
const LookContext = createContext<Pick<Shown, "transmission" | "atSource">>(NOTHING);

/** What the bench shows of a piece, for everything on it. */
export function PreviewsProvider({ shown, children }: { shown: Partial<Shown>; children: ReactNode }) {
  const { plan, finishedMm, awaited, model, findings, refusal, transmission, atSource } = { ...NOTHING, ...shown };
  const side = useMemo(() => ({ plan, finishedMm, awaited, refusal }), [plan, finishedMm, awaited, refusal]);
  const look = useMemo(() => ({ transmission, atSource }), [transmission, atSource]);
  return (
    <PlanContext value={side}>
      <ModelContext value={model}>
        <FindingsContext value={findings}>
          <LookContext value={look}>{children}</LookContext>
        </FindingsContext>
      </ModelContext>
    </PlanContext>
  );
}

export const usePlanSide = () => useContext(PlanContext);
export const usePlan = () => usePlanSide().plan;
export const useModel = () => useContext(ModelContext);
export const useFoundSoFar = () => useContext(FindingsContext);
export const useLook = () => useContext(LookContext);

/** Whether a newer plan is on its way, or an edit to the server. */
export function useAwaited(): boolean {
  const pending = useBenchStore((state) => state.pending !== null);
  return usePlanSide().awaited || pending;
}

/** Whether the plan shows the very frame that the section has, so that places on them are the same. */
export function useSameFrame(): boolean {
  const { plan, finishedMm } = usePlanSide();
  const { atSource } = useLook();
  if (atSource) return false;
  if (!plan || !finishedMm) return true;
  const [width, depth] = plan.head.size_mm;
  return Math.abs(width - finishedMm[0]) + Math.abs(depth - finishedMm[1]) < SAME_MM;
}

/** Whether the plan shows the very frame that the model has, so that places on them are the same; not once it is bent. */
export function useSameAsModel(): boolean {
  const same = useSameFrame();
  return useLook().transmission === null && same;
}

/** The shared cursor where it means a place of the model too. */
export function useCursorOnModel(): Spot | null {
  const same = useSameAsModel();
  const cursor = useBenchStore((state) => state.cursor);
  return same ? cursor : null;
}
