import { useBenchStore } from "../../state/benchStore";
import { formatLength } from "../../state/units";
import { WorkCard } from "../../ui/WorkCard";
import { DecorateCards } from "../common/decorate/DecorateCards";
import { StepsCard } from "../common/steps/StepsCard";
import type { ModelStationProps } from "../common/stationProps";

/** A model from elsewhere, and the steps that mend and change it. It stays untouched; every step can be switched off. */
export function ModelStation(props: ModelStationProps) {
  const { document } = props;
  const unit = useBenchStore((state) => state.unit);
  const { model } = document;
  const size = model.size_mm.map((side) => formatLength(Math.round(side * 1000) / 1000, unit)).join(" × ");
  return (
    <>
      <DecorateCards {...props} />
      <WorkCard title="Model">
        <dl className="facts">
          <dt>File</dt>
          <dd className="text-break">{model.name}</dd>
          <dt>Unit</dt>
          <dd>{model.told ? `${model.unit}, from the file or told` : "mm, as the format tells none"}</dd>
          <dt>Size</dt>
          <dd>
            {size} {unit}
          </dd>
          <dt>Triangles</dt>
          <dd>{model.triangles.toLocaleString("en")}</dd>
        </dl>
        <p className="quiet-label">The file stays as it came. Steps work on it in this order.</p>
      </WorkCard>
      <StepsCard {...props} />
    </>
  );
}
