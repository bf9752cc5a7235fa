import { useEffect, useMemo } from "react";
import { answered, api, type Finding } from "../api/client";
import { AT_REST_PX, fetchModel, fetchPlan, MODEL_DRAGGING_PX, PLAN_DRAGGING_PX, type MergePatch, type Plan, type ShadedSolid } from "../api/preview";
import { useProgress } from "../api/progress";
import { useBenchStore } from "./benchStore";
import { useHandStore } from "./handStore";
import { useInTurn } from "./useInTurn";
import { useLast } from "./useLast";
import { useRested } from "./useRested";

/** The hand rests when nothing new was asked for this long. */
const REST_MS = 400;
/** A model that takes longer to draw would hold back the plan; it waits until the hand rests. */
const SLOW_FRAME_MS = 60;

interface Request {
  revision: number;
  change: MergePatch;
  upto: string | null;
  dragging: boolean;
}

export interface Previews {
  plan: Plan | null;
  /** Size of the last plan of the finished piece; where the plan looks at an earlier step, its own may differ. */
  finishedMm: readonly [number, number, number] | null;
  /** Whether a newer plan is on its way. */
  awaited: boolean;
  /** The solid as previewed; it follows the plan. */
  model: ShadedSolid | null;
  /** What is known before the build. */
  findings: readonly Finding[];
  /** Why what is shown cannot be made. */
  refusal: string | null;
}

const NONE: readonly Finding[] = [];

/**
 * Plan, model and findings of the kept revision, or of what is being dragged. The plan leads because it is quick. The
 * model follows each plan that was shown where drawing it is quick too, and otherwise, like the findings, once the hand
 * rests. `upto` is the picture op after which the plan looks.
 */
export function usePreviewQueries(pieceId: string, revision: number | undefined, upto: string | null): Previews {
  const draft = useBenchStore((state) => state.draft);
  const drawing = useHandStore((state) => state.drawing);
  // Who draws on the model looks at it, however slow it is.
  const slow = useBenchStore((state) => state.frameMs > SLOW_FRAME_MS) && !drawing;
  const wanted = useMemo<Request | null>(
    () => (revision === undefined ? null : { revision, change: draft ?? {}, upto, dragging: draft !== null }),
    [revision, draft, upto],
  );
  const plan = useInTurn("plan", pieceId, wanted, fetchShownPlan);
  const shown = useLast(plan.answers ?? undefined, pieceId) ?? null;
  const rested = useRested(shown, shown?.dragging ?? false, REST_MS);
  const model = useInTurn("model", pieceId, slow && shown?.dragging ? rested : shown, fetchShownModel);
  const findings = useInTurn("findings", pieceId, rested, fetchFindings);
  const finished = useLast(plan.answers?.upto === null ? plan.data?.head.size_mm : undefined, pieceId);
  useEffect(() => {
    if (plan.answers) useProgress.setState({ pieceId: null });
  }, [plan.answers]);
  return {
    plan: plan.data ?? null,
    finishedMm: finished ?? null,
    awaited: wanted !== null && plan.answers !== wanted && plan.error === null,
    model: model.data ?? null,
    findings: findings.data ?? NONE,
    refusal: (plan.error ?? model.error ?? findings.error)?.message ?? null,
  };
}

function fetchShownPlan(pieceId: string, { change, dragging, upto }: Request, signal: AbortSignal): Promise<Plan> {
  return fetchPlan(pieceId, change, dragging ? PLAN_DRAGGING_PX : AT_REST_PX, upto, signal);
}

function fetchShownModel(pieceId: string, { change, dragging }: Request, signal: AbortSignal): Promise<ShadedSolid> {
  return fetchModel(pieceId, change, dragging ? MODEL_DRAGGING_PX : AT_REST_PX, signal);
}

function fetchFindings(pieceId: string, { change }: Request, signal: AbortSignal): Promise<Finding[]> {
  const params = { path: { piece_id: pieceId } };
  return answered(api.POST("/api/pieces/{piece_id}/findings", { params, body: { change, longest_px: AT_REST_PX }, signal }));
}
