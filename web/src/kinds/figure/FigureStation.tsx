import { usePlanSide } from "../../state/previews";
import { useBenchStore } from "../../state/benchStore";
import { lengthWithUnit } from "../../state/units";
import { Button } from "../../ui/Button";
import { FilePick } from "../../ui/FilePick";
import { WorkCard } from "../../ui/WorkCard";
import { ChoiceHint, PartCard } from "../common/fields/PartCard";
import { PartField } from "../common/fields/PartField";
import { ShapeCard } from "../common/ShapeCard";
import type { FigureStationProps } from "../common/stationProps";
import { CompareCard } from "../common/depth/CompareCard";
import { HandCard } from "../common/depth/HandCard";
import { OrderCard } from "../common/depth/OrderCard";
import { FewColoursCard } from "./FewColoursCard";
import { FigureDepth } from "./FigureDepth";

/** From the outline to a solid: how deep, what is behind, how large and how fine. */
export function FigureStation(props: FigureStationProps) {
  const { piece, document, editing } = props;
  const work = { document, editing };
  return (
    <>
      <ShapeCard piece={piece} />
      <FigureDepth {...props} />
      <HandCard {...props} at="figure" />
      <OrderCard {...props} at="figure" />
      <CompareCard {...props} at="figure" />
      <WorkCard title="Back">
        <PartField {...work} at="figure.back.kind" />
        <ChoiceHint document={document} at="figure.back.kind" />
        <PartField {...work} at="figure.back.bulge" />
        <PartField {...work} at="figure.back.fade_mm" />
        <FilePick
          label="A picture of the back, as one sees it from there"
          name={document.figure.back.blob ? document.figure.back.name : undefined}
          onKept={({ blob, name }) => editing.keep(`Picture of the back ${name}`, { figure: { back: { blob, name } } })}
        />
        {document.figure.back.blob && (
          <Button size="sm" variant="outline-secondary" onClick={() => editing.keep("No picture of the back", { figure: { back: { blob: null, name: null } } })}>
            Take it away
          </Button>
        )}
      </WorkCard>
      <WorkCard title="Size">
        <PartField {...work} at="figure.width_mm" />
        <FigureSize />
      </WorkCard>
      <PartCard {...work} at="figure.foot" />
      <PartCard {...work} at="figure.colour" />
      {document.figure.colour.on && <FewColoursCard {...props} />}
      <PartCard {...work} at="figure.symmetry" />
      <PartCard {...work} at="figure.detail" />
      <WorkCard title="Thin places">
        <PartField {...work} at="figure.thinnest_mm" />
        <PartField {...work} at="figure.widen" />
        <p className="quiet-label">Kept everywhere. What was added for it is told among the findings.</p>
      </WorkCard>
      <WorkCard title="How fine">
        <PartField {...work} at="figure.cells" />
        <PartField {...work} at="figure.tolerance_mm" />
        <p className="quiet-label">The surface is made on a grid of so many cells, and then as light as that allows.</p>
      </WorkCard>
    </>
  );
}

function FigureSize() {
  const unit = useBenchStore((state) => state.unit);
  const size = usePlanSide().finishedMm;
  if (!size) return null;
  return (
    <dl className="facts" data-testid="figure-size">
      <dt>The figure is</dt>
      <dd>{size.map((side) => lengthWithUnit(side, unit)).join(" × ")}</dd>
    </dl>
  );
}
