import type { JobView } from "../api/client";
import { useJobs } from "../api/pieces";
import { useBenchStore } from "./benchStore";

/** The carving of this very revision that has finished, while it is looked at at Deliver. */
export function useCarvedJob(pieceId: string, revision: number): JobView | undefined {
  const jobs = useJobs(pieceId).data;
  const atDeliver = useBenchStore((state) => state.station === "deliver" && state.draft === null);
  const newest = jobs?.find((job) => job.kind === "carving" && job.revision === revision);
  return atDeliver && newest?.state === "done" ? newest : undefined;
}
