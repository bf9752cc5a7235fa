import { useQuery } from "@tanstack/react-query";
import { AT_REST_PX, fetchBeside, fetchModel, type MergePatch, type ShadedSolid } from "../../api/preview";
import { useBenchStore } from "../../state/benchStore";

/** Something that was done to the piece and can be left out, to see what it did. */
export interface LeftOut {
  /** Where it stands, or its own id in a list. */
  key: string;
  name: string;
  /** The change that leaves it out. */
  without: MergePatch;
}

/** The solid that is looked at beside today's; null while none is asked for. */
export function useBeside(pieceId: string, revision: number, steps: readonly LeftOut[]): { solid: ShadedSolid; name: string } | null {
  const beside = useBenchStore((state) => state.beside);
  const step = steps.find(({ key }) => key === beside?.without);
  const version = beside?.version;
  const solid = useQuery({
    queryKey: ["beside", pieceId, version ?? step?.key, version === undefined || version === "before" ? revision : null],
    queryFn: ({ signal }) => (version === undefined ? fetchModel(pieceId, step?.without ?? {}, AT_REST_PX, signal) : fetchBeside(pieceId, version, signal)),
    enabled: version !== undefined || step !== undefined,
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
  return beside && solid.data ? { solid: solid.data, name: beside.name } : null;
}
