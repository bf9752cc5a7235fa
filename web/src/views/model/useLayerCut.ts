import type { Layer } from "../../api/printing";
import { useBenchStore } from "../../state/benchStore";
import { useLayer } from "../../state/useLayer";

const WHERE = ["proof", "deliver"];

/** The layer that the model is cut above while one looks through its layers; null for all of it. */
export function useLayerCut(pieceId: string, revision: number): Layer | null {
  const on = useBenchStore((state) => state.byLayers && WHERE.includes(state.station) && state.draft === null);
  const { layer } = useLayer(pieceId, revision, on);
  return on && layer && layer.head.layer < layer.head.layers ? layer : null;
}
