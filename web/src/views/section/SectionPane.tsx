import type { PieceView } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import { LayerView } from "./LayerView";
import { FoldButton } from "./FoldButton";
import { SectionSwitch } from "./SectionSwitch";
import { SectionView } from "./SectionView";
import { usePrinted } from "../../state/usePrinted";
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
        <FoldButton folded={folded} setFolded={setFolded} />
      </div>
      {!folded && <LayerView piece={piece} />}
    </div>
  );
}
