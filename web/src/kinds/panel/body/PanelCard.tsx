import { useBenchStore } from "../../../state/benchStore";
import { usePlanSide } from "../../../state/previews";
import { lengthWithUnit } from "../../../state/units";
import { WorkCard } from "../../../ui/WorkCard";
import { ChoiceHint } from "../../common/fields/PartCard";
import { PartField } from "../../common/fields/PartField";
import type { StationProps } from "../../common/stationProps";

/** Size and outline. */
export function PanelCard({ document, editing }: StationProps) {
  const unit = useBenchStore((state) => state.unit);
  const finished = usePlanSide().finishedMm;
  const work = { document, editing };
  return (
    <WorkCard title="Size and outline">
      <PartField {...work} at="body.width_mm" />
      {finished && (
        <dl className="facts">
          <dt>Height, from the picture</dt>
          <dd data-testid="body-height">{lengthWithUnit(finished[1], unit)}</dd>
          <dt>Thickest it can be</dt>
          <dd>{lengthWithUnit(finished[2], unit)}</dd>
        </dl>
      )}
      <PartField {...work} at="body.shape" />
      <PartField {...work} at="body.corner_mm" />
      <PartField {...work} at="body.sides" />
      <PartField {...work} at="body.margin_mm" />
      <ChoiceHint document={document} at="body.shape" />
    </WorkCard>
  );
}
