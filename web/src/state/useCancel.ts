import { useQueryClient } from "@tanstack/react-query";
import type { JobView } from "../api/client";
import { cancelJob, takeInJob } from "../api/pieces";
import { useBenchStore } from "./benchStore";

/** Cancel a job and show that it is. */
export function useCancel(): (job: JobView) => void {
  const client = useQueryClient();
  const set = useBenchStore((state) => state.set);
  return (job) =>
    void cancelJob(job.id).then(
      (cancelled) => takeInJob(client, cancelled),
      (error: Error) => set({ refusal: error.message }),
    );
}
