import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { fetchStock } from "../../api/preview";
import { useCarveStore } from "../../state/carveStore";
import { useCarvedJob } from "../../state/useCarvedJob";

const LAST = 10_000;

/** The simulated stock at the step that is looked at, where the piece is carved and that is to be shown. */
export function useCarvedStock(pieceId: string, revision: number) {
  const job = useCarvedJob(pieceId, revision);
  const shown = useCarveStore((state) => state.shown);
  const step = useCarveStore((state) => state.step) ?? LAST;
  const on = job !== undefined && shown !== null;
  const stock = useQuery({
    queryKey: ["stock", job?.id, step, shown],
    queryFn: ({ signal }) => fetchStock(job?.id ?? "", step, shown ?? "stock", signal),
    enabled: on,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
  return on ? (stock.data ?? null) : null;
}
