import { useEffect, useRef } from "react";
import { useProgress } from "../api/progress";
import { answered, api, type Finding } from "../api/client";
import { useConnection } from "../api/connection";
import { fetchModel, fetchPlan, type MergePatch, type Plan, type ShadedSolid } from "../api/preview";
import { useBenchStore } from "./benchStore";
import { LatestWins } from "./latestWins";

/** Pixels of the longer side while something is dragged, and at rest; the section cuts the model that is shown. */
const PLAN_DRAGGING_PX = 512;
export const AT_REST_PX = 720;
export const MODEL_DRAGGING_PX = 320;
/** The hand rests when nothing new was asked for this long. */
const REST_MS = 400;
/** A model that takes longer to draw would hold back the plan; it waits until the hand rests. */
const SLOW_FRAME_MS = 60;

const FRESH = {
  plan: null,
  finishedMm: null,
  model: null,
  drawn: null,
  findings: [],
  refusal: null,
  editRefusal: null,
  line: null,
  tiltDeg: 0,
  liftMm: 0,
  mapKind: null,
  beside: null,
  eye: null,
  measuring: false,
  picked: [],
  cursor: null,
  draft: null,
  revision: null,
  pending: null,
  opId: null,
  look: "end" as const,
  divider: null,
  thinShown: false,
  glow: null,
  sheetBeside: null,
};

interface Request {
  change: MergePatch;
  upto: string | null;
  dragging: boolean;
}

/**
 * Keep plan, model and findings in step with the kept revision and with what is being dragged. The plan leads because
 * it is quick. The model follows each plan that was shown where drawing it is quick too, and otherwise, like the
 * findings, once the hand rests. `upto` is the picture op after which the plan looks.
 */
export function usePreviews(pieceId: string, revision: number | undefined, upto: string | null): void {
  const draft = useBenchStore((state) => state.draft);
  const set = useBenchStore((state) => state.set);
  const { connected } = useConnection();
  const plans = useRef<LatestWins<Request, Plan> | null>(null);

  useEffect(() => {
    set(FRESH);
    const refuse = (error: unknown) => set({ refusal: error instanceof Error ? error.message : String(error), planAwaited: false });
    let resting: ReturnType<typeof setTimeout> | undefined;
    const findings = new LatestWins<Request, Finding[]>(
      ({ change }) => fetchFindings(pieceId, change),
      (found) => set({ findings: found }),
      refuse,
    );
    const models = new LatestWins<Request, ShadedSolid>(
      ({ change, dragging }) => fetchModel(pieceId, change, dragging ? MODEL_DRAGGING_PX : AT_REST_PX),
      (model) => set({ model }),
      refuse,
    );
    const follow = (request: Request) => {
      const patient = request.dragging && useBenchStore.getState().frameMs > SLOW_FRAME_MS;
      if (!patient) models.ask(request);
      clearTimeout(resting);
      const rest = () => {
        if (patient) models.ask(request);
        findings.ask(request);
      };
      resting = setTimeout(rest, request.dragging ? REST_MS : 0);
    };
    const current = new LatestWins<Request, Plan>(
      ({ change, dragging, upto }) => fetchPlan(pieceId, change, dragging ? PLAN_DRAGGING_PX : AT_REST_PX, upto),
      (plan, request) => {
        set({ plan, refusal: null, planAwaited: false });
        if (request.upto === null) set({ finishedMm: plan.head.size_mm });
        useProgress.setState({ pieceId: null });
        follow(request);
      },
      refuse,
    );
    plans.current = current;
    return () => {
      clearTimeout(resting);
      for (const loop of [current, models, findings]) loop.stop();
    };
  }, [pieceId, set]);

  useEffect(() => {
    if (revision === undefined) return;
    const { pending } = useBenchStore.getState();
    set({ revision, pending: pending?.kept ? null : pending });
  }, [pieceId, revision, set]);

  useEffect(() => {
    if (revision === undefined || !connected) return;
    set({ planAwaited: true });
    plans.current?.ask({ change: draft ?? {}, dragging: draft !== null, upto });
  }, [pieceId, revision, draft, connected, upto, set]);
}

function fetchFindings(pieceId: string, change: MergePatch): Promise<Finding[]> {
  return answered(
    api.POST("/api/pieces/{piece_id}/findings", {
      params: { path: { piece_id: pieceId } },
      body: { change, longest_px: AT_REST_PX },
    }),
  );
}
