import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api, type FewColoursFacts, type Filament, type FilamentEdit } from "./client";
import { AT_REST_PX } from "./preview";

const KEY = ["filaments"] as const;

/** The filaments of the table, and what can be done to them. */
export function useFilaments() {
  const client = useQueryClient();
  const onSuccess = () => client.invalidateQueries({ queryKey: KEY });
  const filaments = useQuery({ queryKey: KEY, queryFn: () => answered<Filament[]>(api.GET("/api/filaments")) });
  const add = useMutation({
    mutationFn: (filament: FilamentEdit) => answered<Filament>(api.POST("/api/filaments", { body: filament })),
    onSuccess,
  });
  const change = useMutation({
    mutationFn: ({ id, ...filament }: Filament) =>
      answered<Filament>(api.PUT("/api/filaments/{filament_id}", { params: { path: { filament_id: id } }, body: filament })),
    onSuccess,
  });
  const drop = useMutation({
    mutationFn: (id: number) => api.DELETE("/api/filaments/{filament_id}", { params: { path: { filament_id: id } } }),
    onSuccess,
  });
  return { filaments: filaments.data ?? [], add, change, drop };
}

/** A kept figure in few colours, before and after; null where few are not asked for. */
export function useFewColours(pieceId: string, revision: number) {
  return useQuery({
    queryKey: ["few-colours", pieceId, revision],
    queryFn: ({ signal }) =>
      answered<FewColoursFacts | null>(
        api.POST("/api/pieces/{piece_id}/few-colours", {
          params: { path: { piece_id: pieceId } },
          body: { change: {}, longest_px: AT_REST_PX },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
}
