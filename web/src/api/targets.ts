import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api, type LightTarget, type LightTargetEdit } from "./client";

const KEY = ["light-targets"] as const;

/** The targets of lightness, and what can be done to them. */
export function useTargets() {
  const client = useQueryClient();
  const onSuccess = () => client.invalidateQueries({ queryKey: KEY });
  const targets = useQuery({ queryKey: KEY, queryFn: () => answered<LightTarget[]>(api.GET("/api/light-targets")) });
  const add = useMutation({
    mutationFn: (target: LightTargetEdit) => answered<LightTarget>(api.POST("/api/light-targets", { body: target })),
    onSuccess,
  });
  const change = useMutation({
    mutationFn: ({ id, ...target }: LightTarget) =>
      answered<LightTarget>(api.PUT("/api/light-targets/{target_id}", { params: { path: { target_id: id } }, body: target })),
    onSuccess,
  });
  const drop = useMutation({
    mutationFn: (id: number) => api.DELETE("/api/light-targets/{target_id}", { params: { path: { target_id: id } } }),
    onSuccess,
  });
  return { targets: targets.data ?? [], add, change, drop };
}
