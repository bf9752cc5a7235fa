import { useMemo } from "react";
import { fetchLayer, useLayers, type Layer, type Looked } from "../api/printing";
import type { LayersView } from "../api/client";
import { useBenchStore } from "./benchStore";
import { useInTurn } from "./useInTurn";
import { useLooked } from "./useLooked";

interface Request extends Looked {
  layer: number;
  dragging: boolean;
}

export interface LookedAt {
  all: LayersView | undefined;
  layer: Layer | null;
  refusal: string | null;
}

/** The layer that is looked at, and what is known of all of them. */
export function useLayer(pieceId: string, revision: number, on = true): LookedAt {
  const { finished } = useLooked(pieceId, revision);
  const all = useLayers({ pieceId, revision, finished }, on);
  const count = all.data?.report.layers;
  const chosen = useBenchStore((state) => state.layer);
  const layer = Math.min(Math.max(chosen, 1), count ?? 1);
  const ready = count !== undefined && !all.isPlaceholderData;
  const wanted = useMemo<Request | null>(
    () => (on && ready ? { pieceId, revision, finished, layer, dragging: true } : null),
    [on, ready, pieceId, revision, finished, layer],
  );
  const shown = useInTurn("layer", pieceId, wanted, fetchOne);
  return { all: all.data, layer: shown.data ?? null, refusal: (all.error ?? shown.error)?.message ?? null };
}

function fetchOne(_pieceId: string, { layer, ...looked }: Request, signal: AbortSignal): Promise<Layer> {
  return fetchLayer(looked, layer, signal);
}
