import { useEffect, useRef, useState } from "react";
import { answered, api, type SectionCut } from "../../api/client";
import type { MergePatch } from "../../api/preview";
import { useBenchStore, type Line } from "../../bench/benchStore";
import { AT_REST_PX, MODEL_DRAGGING_PX } from "../../bench/usePreviews";
import { LatestWins } from "../../bench/latestWins";
import { builtJob } from "../../bench/built";
import { useJobs } from "../../api/pieces";
import { FIRST_LINE } from "../spot";

interface Request {
  /** What is dragged, or null at rest. */
  change: MergePatch | null;
  /** In shares of the piece. */
  line: Line;
  tiltDeg: number;
  liftMm: number;
  /** The job whose finished solid is cut, when this very state was built. */
  builtBy: string | undefined;
}

/** The cut along the section line of what the bench shows now. */
export function useSection(pieceId: string, revision: number): SectionCut | null {
  const plan = useBenchStore((state) => state.plan);
  const line = useBenchStore((state) => state.line) ?? FIRST_LINE;
  const tiltDeg = useBenchStore((state) => state.tiltDeg);
  const liftMm = useBenchStore((state) => state.liftMm);
  const draft = useBenchStore((state) => state.draft);
  const builtBy = builtJob(useJobs(pieceId).data, revision)?.id;
  const [cut, setCut] = useState<SectionCut | null>(null);
  const loop = useRef<LatestWins<Request, SectionCut> | null>(null);

  useEffect(() => {
    const current = new LatestWins<Request, SectionCut>(
      (request) => fetchSection(pieceId, request),
      setCut,
      () => setCut(null),
    );
    loop.current = current;
    return () => current.stop();
  }, [pieceId]);

  useEffect(() => {
    if (plan) loop.current?.ask({ change: draft, line, tiltDeg, liftMm, builtBy });
    // The draft comes before the plan that it made: asking again on the plan keeps both in step.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [plan, line, tiltDeg, liftMm, builtBy]);

  return cut;
}

function fetchSection(pieceId: string, { change, line, tiltDeg, liftMm, builtBy }: Request): Promise<SectionCut> {
  const plane = {
    start: [line.start.x, line.start.y] as [number, number],
    end: [line.end.x, line.end.y] as [number, number],
    tilt_deg: tiltDeg,
    lift_mm: liftMm,
  };
  return answered(
    change === null && builtBy
      ? api.POST("/api/jobs/{job_id}/section", { params: { path: { job_id: builtBy } }, body: plane })
      : api.POST("/api/pieces/{piece_id}/section", {
          params: { path: { piece_id: pieceId } },
          body: { change: change ?? {}, longest_px: change ? MODEL_DRAGGING_PX : AT_REST_PX, ...plane },
        }),
  );
}
