import type { DrawnDocument, OutlinesView } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import { lengthWithUnit } from "../../state/units";
import { WorkCard } from "../../ui/WorkCard";

interface Props {
  drawing: DrawnDocument["drawing"];
  view: OutlinesView | undefined;
}

/** The file that the outlines come from. */
export function DrawingCard({ drawing, view }: Props) {
  const unit = useBenchStore((state) => state.unit);
  const [width = 0, height = 0] = drawing.size_mm;
  return (
    <WorkCard title="Drawing">
      <dl className="facts">
        <dt>File</dt>
        <dd className="text-break">{drawing.name}</dd>
        <dt>Size as it came</dt>
        <dd>
          {lengthWithUnit(width, unit)} × {lengthWithUnit(height, unit)}
        </dd>
        {view && (
          <>
            <dt>Outlines</dt>
            <dd data-testid="outline-count">{view.curves.length.toLocaleString("en")}</dd>
            <dt>Layers</dt>
            <dd>{view.layers.map((layer) => layer.name).join(", ")}</dd>
          </>
        )}
      </dl>
      <p className="quiet-label">The file stays as it came.</p>
    </WorkCard>
  );
}
