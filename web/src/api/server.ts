import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api, type Problem, type Storage } from "./client";
import { keys } from "./pieces";

/** What can be made room of: removed pieces, older states, results that can be made again. */
export type Room = "removed" | "history" | "results";

const STORAGE = ["storage"];

/** What the data folder holds. */
export const useStorage = () => useQuery({ queryKey: STORAGE, queryFn: () => answered<Storage>(api.GET("/api/storage")), staleTime: 0 });

/** What went wrong of late. */
export const useProblems = () => useQuery({ queryKey: ["problems"], queryFn: () => answered<Problem[]>(api.GET("/api/problems")), staleTime: 0 });

/** Let go of something that the data folder holds. */
export function useMakeRoom() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (what: Room) => answered<Storage>(api.POST("/api/storage/{what}", { params: { path: { what } } })),
    onSuccess: (storage) => {
      client.setQueryData(STORAGE, storage);
      void client.invalidateQueries({ queryKey: keys.shelf });
    },
  });
}
