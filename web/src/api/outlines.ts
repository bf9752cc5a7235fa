import { useQuery } from "@tanstack/react-query";
import { useBenchStore } from "../bench/benchStore";
import { answered, api, type OutlinesView } from "./client";

/** The mended outlines of a piece, of what is being dragged too. */
export function useOutlines(pieceId: string, revision: number) {
  const draft = useBenchStore((state) => state.draft);
  // While an edit is on its way the page is ahead of the server, which may not know the piece as outlines yet.
  const enabled = useBenchStore((state) => state.pending === null);
  return useQuery({
    queryKey: ["outlines", pieceId, revision, draft],
    queryFn: ({ signal }) =>
      answered<OutlinesView>(
        api.POST("/api/pieces/{piece_id}/outlines", {
          params: { path: { piece_id: pieceId } },
          body: { change: draft ?? {}, longest_px: 720 },
          signal,
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
    enabled,
  });
}
