import { useQuery } from "@tanstack/react-query";
import { fetchMap, type SurfaceMap } from "../../api/preview";
import { useJobs } from "../../api/pieces";
import { useBenchStore } from "../../state/benchStore";
import { builtJob } from "../../api/built";

/** The measure that colours the model at Proof, over the built solid where there is one; null while nothing is asked. */
export function useSurfaceMap(pieceId: string, revision: number, ofBuilt: boolean): SurfaceMap | null {
  const kind = useBenchStore((state) => (state.station === "proof" && state.draft === null ? state.mapKind : null));
  const job = builtJob(useJobs(pieceId).data, revision);
  const builtBy = ofBuilt ? job?.id : undefined;
  const map = useQuery({
    queryKey: ["map", pieceId, revision, kind, builtBy],
    queryFn: ({ signal }) => fetchMap(pieceId, kind ?? "thickness", builtBy, signal),
    enabled: kind !== null,
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
  return kind === null ? null : (map.data ?? null);
}
