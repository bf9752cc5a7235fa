import { useQuery } from "@tanstack/react-query";
import { fetchBeside, type ShadedSolid } from "../../api/preview";
import { useBenchStore } from "../../state/benchStore";

/** The solid that is looked at beside today's; null while none is asked for. */
export function useBeside(pieceId: string, revision: number): { solid: ShadedSolid; name: string } | null {
  const beside = useBenchStore((state) => state.beside);
  const solid = useQuery({
    queryKey: ["beside", pieceId, beside?.version, beside?.version === "before" ? revision : null],
    queryFn: ({ signal }) => fetchBeside(pieceId, beside?.version ?? "before", signal),
    enabled: beside !== null,
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
  return beside && solid.data ? { solid: solid.data, name: beside.name } : null;
}
