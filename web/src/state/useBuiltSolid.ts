import { useQuery } from "@tanstack/react-query";
import type { ShadedSolid } from "../api/preview";
import { fetchBuiltSolid } from "../api/preview";
import { useJobs } from "../api/pieces";
import { builtJob } from "../api/built";

/** The final solid of this revision, once it is built; null before, or when it is too heavy to show. */
export function useBuiltSolid(pieceId: string, revision: number): ShadedSolid | null {
  const job = builtJob(useJobs(pieceId).data, revision);
  const solid = useQuery({
    queryKey: ["built", job?.id],
    queryFn: ({ signal }) => fetchBuiltSolid(job?.id ?? "", signal),
    enabled: job !== undefined,
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
  return solid.data ?? null;
}
