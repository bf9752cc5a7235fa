import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api, type PieceView } from "./client";
import { keys } from "./pieces";
import type { components } from "./schema";

export type Motif = components["schemas"]["MotifView"];
type Order = components["schemas"]["MotifOrder"];
type Placing = components["schemas"]["MotifPlace"];

/** What a drag carries when a motif is dragged onto the Plan. */
export const MOTIF_TYPE = "application/x-nebrel-motif";

/** The library of motifs, searched. */
export function useMotifs(words: string) {
  return useQuery({
    queryKey: ["motifs", words],
    queryFn: () => answered<Motif[]>(api.GET("/api/motifs", { params: { query: { words } } })),
    placeholderData: (before) => before,
  });
}

/** Keeping, changing and removing motifs. */
export function useMotifWork() {
  const client = useQueryClient();
  const onSuccess = () => void client.invalidateQueries({ queryKey: ["motifs"] });
  const keep = useMutation({ mutationFn: (order: Order) => answered<Motif>(api.POST("/api/motifs", { body: order })), onSuccess });
  const rename = useMutation({
    mutationFn: ({ id, name, tags }: Pick<Motif, "id" | "name" | "tags">) =>
      answered<Motif>(api.PUT("/api/motifs/{motif_id}", { params: { path: { motif_id: id } }, body: { name, tags } })),
    onSuccess,
  });
  const change = useMutation({
    mutationFn: ({ motif, piece }: { motif: string; piece: string }) =>
      answered<Motif>(api.POST("/api/motifs/{motif_id}/from/{piece_id}", { params: { path: { motif_id: motif, piece_id: piece } } })),
    onSuccess,
  });
  const drop = useMutation({
    mutationFn: async (id: string) => {
      await api.DELETE("/api/motifs/{motif_id}", { params: { path: { motif_id: id } } });
    },
    onSuccess,
  });
  const open = useMutation({
    mutationFn: (file: File) => {
      const body = new FormData();
      body.append("pack", file, file.name);
      return answered<Motif[]>(api.POST("/api/motif-pack", { body: body as never, bodySerializer: (form) => form as never }));
    },
    onSuccess,
  });
  return { keep, rename, change, drop, open };
}

/** Lay a motif on a piece. */
export function useLayMotif(pieceId: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (place: Placing) =>
      answered<PieceView>(api.POST("/api/pieces/{piece_id}/motifs", { params: { path: { piece_id: pieceId } }, body: place })),
    onSuccess: (piece) => client.setQueryData(keys.piece(piece.id), piece),
  });
}
