import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type PieceView } from "../api/client";
import { reshape, takeIn } from "../api/pieces";
import { useBenchStore } from "./benchStore";

/** Make a piece another thing, and go where the work on that begins. */
export function useReshape(piece: PieceView) {
  const client = useQueryClient();
  const set = useBenchStore((state) => state.set);
  return useMutation({
    scope: { id: `edit-${piece.id}` },
    mutationFn: (shape: string) => {
      const title = piece.shapes.find(({ name }) => name === shape)?.title ?? shape;
      return reshape(piece, shape, `Made a ${title.toLowerCase()}`);
    },
    onMutate: () => set({ draft: null, editRefusal: null }),
    onSuccess: (changed) => {
      const begins = changed.stations.find((station) => station.begins);
      if (changed.kind !== piece.kind && begins) set({ station: begins.name });
      takeIn(client, changed);
    },
    onError: (error) => set({ editRefusal: error.message }),
  });
}

/** The station that a piece is opened at: the first after its picture. */
export function firstStation({ stations }: Pick<PieceView, "stations">): string {
  return (stations.find(({ name }) => name !== "picture") ?? stations[0])?.name ?? "body";
}
