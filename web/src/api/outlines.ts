import { useQuery } from "@tanstack/react-query";
import { answered, api, type OutlinesView } from "./client";
import { AT_REST_PX, type MergePatch } from "./preview";

/** The mended outlines of a piece, of what is being dragged too. */
export function useOutlines(pieceId: string, revision: number, draft: MergePatch | null, enabled: boolean) {
  return useQuery({
    queryKey: ["outlines", pieceId, revision, draft],
    queryFn: ({ signal }) =>
      answered<OutlinesView>(
        api.POST("/api/pieces/{piece_id}/outlines", {
          params: { path: { piece_id: pieceId } },
          body: { change: draft ?? {}, longest_px: AT_REST_PX },
          signal,
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
    enabled,
  });
}
