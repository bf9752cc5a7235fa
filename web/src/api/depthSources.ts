import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api, type ComparedDepth, type JobView, type ModelFile, type ServiceTerms, type TakenModel, type UnsureFacts } from "./client";
import { takeInJob } from "./pieces";
import { AT_REST_PX } from "./preview";

const draft = (pieceId: string) => ({ params: { path: { piece_id: pieceId } }, body: { change: {}, longest_px: AT_REST_PX } });

/** A kept figure by every source of depth, its own first. */
export function useComparedDepths(pieceId: string, revision: number, asked: boolean) {
  return useQuery({
    queryKey: ["depth-sources", pieceId, revision],
    queryFn: ({ signal }) => answered<ComparedDepth[]>(api.POST("/api/pieces/{piece_id}/depth-sources", { ...draft(pieceId), signal })),
    enabled: asked,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
}

/** Where a kept figure's depth is unsure; null where its source cannot tell. */
export function useUnsure(pieceId: string, revision: number, asked: boolean) {
  return useQuery({
    queryKey: ["unsure", pieceId, revision],
    queryFn: ({ signal }) => answered<UnsureFacts | null>(api.POST("/api/pieces/{piece_id}/unsure", { ...draft(pieceId), signal })),
    enabled: asked,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
}

/** The networks in the folder of models, and how to take one for a piece. */
export function useModels(asked: boolean) {
  const models = useQuery({ queryKey: ["models"], queryFn: () => answered<ModelFile[]>(api.GET("/api/models")), enabled: asked });
  const take = useMutation({
    mutationFn: (name: string) => answered<TakenModel>(api.POST("/api/models/{name}/take", { params: { path: { name } } })),
  });
  return { models: models.data ?? [], take };
}

/** The service that makes depths, what it costs, and how to ask it. */
export function useDepthService(pieceId: string) {
  const client = useQueryClient();
  const terms = useQuery({ queryKey: ["depth-service"], queryFn: () => answered<ServiceTerms>(api.GET("/api/depth-service")) });
  const ask = useMutation({
    mutationFn: (gives: "depth" | "solid") =>
      answered<JobView>(api.POST("/api/pieces/{piece_id}/ask-service", { params: { path: { piece_id: pieceId } }, body: { gives } })),
    onSuccess: (job) => takeInJob(client, job),
  });
  return { terms: terms.data, ask };
}
