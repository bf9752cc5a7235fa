import { useMemo } from "react";
import { builtJob } from "../../api/built";
import { answered, api, type SectionCut } from "../../api/client";
import { useJobs } from "../../api/pieces";
import { AT_REST_PX, MODEL_DRAGGING_PX, type MergePatch } from "../../api/preview";
import { useBenchStore, type Line } from "../../state/benchStore";
import { usePlan } from "../../state/previews";
import { useInTurn } from "../../state/useInTurn";
import { FIRST_LINE } from "../spot";

interface Request {
  revision: number;
  change: MergePatch;
  dragging: boolean;
  /** In shares of the piece. */
  line: Line;
  tiltDeg: number;
  liftMm: number;
  /** The job whose finished solid is cut, when this very state was built. */
  builtBy: string | undefined;
}

/** The cut along the section line of what the bench shows now; null where it cannot be made. */
export function useSection(pieceId: string, revision: number): SectionCut | null {
  const plan = usePlan();
  const line = useBenchStore((state) => state.line) ?? FIRST_LINE;
  const tiltDeg = useBenchStore((state) => state.tiltDeg);
  const liftMm = useBenchStore((state) => state.liftMm);
  const builtBy = builtJob(useJobs(pieceId).data, revision)?.id;
  const wanted = useMemo<Request | null>(() => {
    // The draft comes before the plan that it made: it is taken with the plan, so that both stay in step.
    const { draft } = useBenchStore.getState();
    return plan && { revision, change: draft ?? {}, dragging: draft !== null, line, tiltDeg, liftMm, builtBy };
  }, [plan, revision, line, tiltDeg, liftMm, builtBy]);
  const cut = useInTurn("section", pieceId, wanted, fetchSection);
  return cut.error ? null : (cut.data ?? null);
}

function fetchSection(pieceId: string, { change, dragging, line, tiltDeg, liftMm, builtBy }: Request, signal: AbortSignal): Promise<SectionCut> {
  const plane = {
    start: [line.start.x, line.start.y] as [number, number],
    end: [line.end.x, line.end.y] as [number, number],
    tilt_deg: tiltDeg,
    lift_mm: liftMm,
  };
  return answered(
    !dragging && builtBy
      ? api.POST("/api/jobs/{job_id}/section", { params: { path: { job_id: builtBy } }, body: plane, signal })
      : api.POST("/api/pieces/{piece_id}/section", {
          params: { path: { piece_id: pieceId } },
          body: { change, longest_px: dragging ? MODEL_DRAGGING_PX : AT_REST_PX, ...plane },
          signal,
        }),
  );
}
