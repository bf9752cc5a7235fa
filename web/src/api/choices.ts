import { useMutation, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api, type ChoiceTile, type PieceView } from "./client";
import { takeIn } from "./pieces";
import type { components } from "./schema";

export type Choice = components["schemas"]["ChoiceView"];

/** What a piece could be. */
export function useChoices(pieceId: string, revision: number | undefined) {
  return useQuery({
    queryKey: ["choices", pieceId, revision],
    queryFn: ({ signal }) => answered<Choice[]>(api.GET("/api/pieces/{piece_id}/choices", { params: { path: { piece_id: pieceId } }, signal })),
    enabled: revision !== undefined,
  });
}

/** How each of them comes out, as soon as each is drawn. */
export function useTiles(pieceId: string, revision: number | undefined, names: readonly string[]) {
  return useQueries({
    queries: names.map((name) => ({
      queryKey: ["choice", pieceId, revision, name],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        answered<ChoiceTile>(api.GET("/api/pieces/{piece_id}/choices/{name}", { params: { path: { piece_id: pieceId, name } }, signal })),
      staleTime: Infinity,
    })),
  });
}

/** Make the piece one of them. */
export function useChoose(pieceId: string) {
  const client = useQueryClient();
  return useMutation({
    scope: { id: `edit-${pieceId}` },
    mutationFn: ({ base, name }: { base: number; name: string }) =>
      answered<PieceView>(api.POST("/api/pieces/{piece_id}/choice", { params: { path: { piece_id: pieceId } }, body: { base, name } })),
    onSuccess: (piece) => takeIn(client, piece),
  });
}
