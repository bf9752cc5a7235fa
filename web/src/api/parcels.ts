import { useMutation, useQueryClient } from "@tanstack/react-query";
import { answered, api, type JobView } from "./client";
import { takeInJob } from "./pieces";

/** Has pieces built and packed into one ZIP. */
export function usePackParcel() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (pieces: string[]) => answered<JobView>(api.POST("/api/parcels", { body: { piece_ids: pieces } })),
    onSuccess: (job) => takeInJob(client, job),
  });
}
