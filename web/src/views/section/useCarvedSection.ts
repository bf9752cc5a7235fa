import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answered, api, type CarvedSection } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import { useCarveStore } from "../../state/carveStore";
import { useCarvedJob } from "../../state/useCarvedJob";
import { FIRST_LINE } from "../spot";

const LAST = 10_000;

/** The simulated stock along the section line, at the step that is looked at; null where nothing is carved. */
export function useCarvedSection(pieceId: string, revision: number): CarvedSection | null {
  const job = useCarvedJob(pieceId, revision);
  const { start, end } = useBenchStore((state) => state.line) ?? FIRST_LINE;
  const upright = useBenchStore((state) => state.tiltDeg === 0);
  const step = useCarveStore((state) => state.step) ?? LAST;
  const on = job !== undefined && upright;
  const cut = useQuery({
    queryKey: ["carved-section", job?.id, step, start, end],
    queryFn: ({ signal }) =>
      answered<CarvedSection>(
        api.POST("/api/jobs/{job_id}/carving/section", {
          params: { path: { job_id: job?.id ?? "" }, query: { step } },
          body: { start: [start.x, start.y], end: [end.x, end.y], tilt_deg: 0, lift_mm: 0 },
          signal,
        }),
      ),
    enabled: on,
    placeholderData: keepPreviousData,
    gcTime: 60_000,
    retry: false,
  });
  return on ? (cut.data ?? null) : null;
}
