import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api, type CarvingView, type JobView, type RackBit, type ReachView, type RouterBit } from "./client";
import { takeInJob } from "./pieces";
import { PLAN_DRAGGING_PX } from "./preview";

const KEY = ["bits"] as const;

/** The bits of the rack, and what can be done to them. */
export function useRack() {
  const client = useQueryClient();
  const onSuccess = () => client.invalidateQueries({ queryKey: KEY });
  const bits = useQuery({ queryKey: KEY, queryFn: () => answered<RackBit[]>(api.GET("/api/bits")) });
  const add = useMutation({ mutationFn: (bit: RouterBit) => answered<RackBit>(api.POST("/api/bits", { body: bit })), onSuccess });
  const change = useMutation({
    mutationFn: ({ id, bit }: RackBit) => answered<RackBit>(api.PUT("/api/bits/{bit_id}", { params: { path: { bit_id: id } }, body: bit })),
    onSuccess,
  });
  const drop = useMutation({
    mutationFn: (id: number) => api.DELETE("/api/bits/{bit_id}", { params: { path: { bit_id: id } } }),
    onSuccess,
  });
  return { bits: bits.data ?? [], add, change, drop };
}

/** Plan the carving of a kept piece, and prove it. */
export function useCarve(pieceId: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => answered<JobView>(api.POST("/api/pieces/{piece_id}/carve", { params: { path: { piece_id: pieceId } } })),
    onSuccess: (job) => takeInJob(client, job),
  });
}

/** The stock, the zero point and the ways of a carving job. */
export function useCarving(jobId: string | undefined) {
  return useQuery({
    queryKey: ["carving", jobId],
    queryFn: ({ signal }) => answered<CarvingView>(api.GET("/api/jobs/{job_id}/carving", { params: { path: { job_id: jobId ?? "" } }, signal })),
    enabled: jobId !== undefined,
    staleTime: Infinity,
    retry: false,
  });
}

/** What the bits of a piece cannot reach, on its preview. */
export function useReach(pieceId: string, revision: number, enabled: boolean) {
  return useQuery({
    queryKey: ["reach", pieceId, revision],
    queryFn: ({ signal }) =>
      answered<ReachView>(
        api.POST("/api/pieces/{piece_id}/reach", { params: { path: { piece_id: pieceId } }, body: { change: {}, longest_px: PLAN_DRAGGING_PX }, signal }),
      ),
    enabled,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  });
}
