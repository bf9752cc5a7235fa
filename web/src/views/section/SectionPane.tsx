import type { PieceView } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import { LayerView } from "./LayerView";
import { SectionSwitch } from "./SectionSwitch";
import { SectionView } from "./SectionView";
import { usePrinted } from "./usePrinted";
import { useSectionHeight } from "./useSectionHeight";

/** The section along its line, or a layer from above. */
export function SectionPane({ piece }: { piece: PieceView }) {
  const byLayers = useBenchStore((state) => state.byLayers);
  const printed = usePrinted();
  return byLayers && printed ? <LayerPane piece={piece} /> : <SectionView piece={piece} />;
}

function LayerPane({ piece }: { piece: PieceView }) {
  const { folded, setFolded, ...edge } = useSectionHeight();
  return (
    <div className={folded ? "pane pane-section is-folded" : "pane pane-section"} role="group" aria-label="Section">
      {!folded && <div className="section-edge" {...edge} />}
      <span className="pane-name">Layers, from above</span>
      <div className="section-tools">
        <SectionSwitch />
        <button
          type="button"
          className="icon-button py-0"
          aria-expanded={!folded}
          aria-label={folded ? "Unfold the section" : "Fold the section"}
          title={folded ? "Unfold the section" : "Fold the section"}
          onClick={() => setFolded(!folded)}
        >
          <i className={`bi bi-chevron-${folded ? "up" : "down"}`} aria-hidden="true" />
        </button>
      </div>
      {!folded && <LayerView piece={piece} />}
    </div>
  );
}
