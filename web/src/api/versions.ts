import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api, type PieceView, type Version } from "./client";
import { keys } from "./pieces";

const keyOf = (pieceId: string) => ["versions", pieceId] as const;

/** The named versions of a piece, and what can be done with them. */
export function useVersions(pieceId: string) {
  const client = useQueryClient();
  const params = { path: { piece_id: pieceId } };
  const renew = () => client.invalidateQueries({ queryKey: keyOf(pieceId) });
  const versions = useQuery({
    queryKey: keyOf(pieceId),
    queryFn: () => answered<Version[]>(api.GET("/api/pieces/{piece_id}/versions", { params })),
  });
  const name = useMutation({
    mutationFn: (text: string) => answered<Version>(api.POST("/api/pieces/{piece_id}/versions", { params, body: { name: text } })),
    onSuccess: renew,
  });
  const forget = useMutation({
    mutationFn: (id: number) => api.DELETE("/api/versions/{version_id}", { params: { path: { version_id: id } } }),
    onSuccess: renew,
  });
  const restore = useMutation({
    mutationFn: ({ id, base }: { id: number; base: number }) =>
      answered<PieceView>(api.POST("/api/versions/{version_id}/restore", { params: { path: { version_id: id }, query: { base } } })),
    onSuccess: (piece) => client.setQueryData(keys.piece(piece.id), piece),
  });
  return { versions: versions.data ?? [], name, forget, restore };
}
