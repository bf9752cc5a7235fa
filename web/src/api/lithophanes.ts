import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answered, api, type LitFacts } from "./client";
import { AT_REST_PX, fetchVariations } from "./preview";

/** What is measured of a kept lithophane in light. */
export function useLitFacts(pieceId: string, revision: number) {
  return useQuery({
    queryKey: ["lit", pieceId, revision],
    queryFn: ({ signal }) =>
      answered<LitFacts>(
        api.POST("/api/pieces/{piece_id}/lit", {
          params: { path: { piece_id: pieceId } },
          body: { change: {}, longest_px: AT_REST_PX },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
}

/** Nine variations of a kept lithophane. */
export function useVariations(pieceId: string, revision: number, asked: boolean) {
  return useQuery({
    queryKey: ["variations", pieceId, revision],
    queryFn: ({ signal }) => fetchVariations(pieceId, signal),
    enabled: asked,
    staleTime: Infinity,
  });
}
