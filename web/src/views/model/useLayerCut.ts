import type { Layer } from "../../api/printing";
import { useBenchStore } from "../../state/benchStore";
import { useLayer } from "../../state/useLayer";
import { usePrinted } from "../../state/usePrinted";

/** The layer that the model is cut above while one looks through its layers; null for all of it. */
export function useLayerCut(pieceId: string, revision: number): Layer | null {
  const printed = usePrinted();
  const on = useBenchStore((state) => state.byLayers) && printed;
  const { layer } = useLayer(pieceId, revision, on);
  return on && layer && layer.head.layer < layer.head.layers ? layer : null;
}
