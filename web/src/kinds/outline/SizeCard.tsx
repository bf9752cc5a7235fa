import type { OutlineDocument, OutlinesView } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import { usePartSchemas } from "../../state/partSchemas";
import type { Editing } from "../../state/useEditing";
import { LengthField } from "../../ui/LengthField";
import { lengthWithUnit } from "../../state/units";
import { WorkCard } from "../../ui/WorkCard";
import { besides } from "./reference";

/** What is drawn may be smaller than the drawing, whose width is limited. */
const SMALLEST_MM = 0.1;

interface Props {
  document: OutlineDocument;
  editing: Editing;
  view: OutlinesView | undefined;
}

/** How large what is drawn is, beside something that everybody knows. */
export function SizeCard({ document, editing, view }: Props) {
  const unit = useBenchStore((state) => state.unit);
  const field = usePartSchemas().field(document, "width_mm");
  if (!view) return null;
  const [lowest, highest] = [field.lowest ?? 0, field.highest ?? Infinity];
  const [left = 0, bottom = 0, right = 1, top = 1] = view.box;
  const [width, depth] = [right - left, top - bottom];
  const scaled = (wanted: number) => Math.min(highest, Math.max(lowest, (document.width_mm * wanted) / Math.max(width, 1e-9)));
  const other = unit === "mm" ? "in" : "mm";
  const reference = besides(width, depth);
  return (
    <WorkCard title="Size">
      <LengthField
        label={field.label}
        value={Math.round(width * 1000) / 1000}
        lowest={SMALLEST_MM}
        highest={highest}
        slider={field.slider ? { from: field.slider[0], to: field.slider[1] } : undefined}
        step={field.step}
        onDrag={(wanted) => editing.drag({ width_mm: scaled(wanted) })}
        onKeep={(wanted) => editing.keep(`Outlines ${wanted} mm wide`, { width_mm: scaled(wanted) })}
      />
      <dl className="facts">
        <dt>Width and height</dt>
        <dd data-testid="outline-size">
          {lengthWithUnit(width, unit)} × {lengthWithUnit(depth, unit)}
        </dd>
        <dt>The same</dt>
        <dd>
          {lengthWithUnit(width, other)} × {lengthWithUnit(depth, other)}
        </dd>
      </dl>
      <svg className="size-beside" viewBox={`0 0 ${reference.span} ${reference.tall}`} role="img" aria-label={`Beside ${reference.name}`}>
        <rect x={0.5} y={reference.tall - reference.height - 0.5} width={reference.width - 1} height={reference.height} rx={2} className="known" />
        <rect x={reference.width + 6} y={reference.tall - depth - 0.5} width={width} height={depth} rx={1} className="mine" />
      </svg>
      <p className="quiet-label">Left: {reference.name}. Right: the box of your outlines, to the same scale.</p>
    </WorkCard>
  );
}
