import { useQuery } from "@tanstack/react-query";
import { fetchThinMap, type ThinMap } from "../../../api/preview";
import { useBenchStore } from "../../../state/benchStore";

/** What is too thin to be made, while that is asked for. */
export function useThinMap(pieceId: string, revision: number): ThinMap | null {
  const shown = useBenchStore((state) => state.thinShown);
  const map = useQuery({
    queryKey: ["thin", pieceId, revision],
    queryFn: ({ signal }) => fetchThinMap(pieceId, {}, signal),
    enabled: shown,
    placeholderData: (last) => last,
  });
  return shown ? (map.data ?? null) : null;
}
