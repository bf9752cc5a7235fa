import type { OutlineSolid, OutlinesView } from "../../../api/client";
import { useBenchStore } from "../../../state/benchStore";
import { lengthWithUnit } from "../../../state/units";
import { WorkCard } from "../../../ui/WorkCard";
import { PartField, type Work } from "../../common/fields/PartField";
import { patchAt } from "../../common/fields/patchAt";
import { LayerFields } from "./LayerFields";

type Cutter = Extract<OutlineSolid, { kind: "cutter" }>;

interface Props extends Work {
  solid: Cutter;
  layers: OutlinesView["layers"];
}

/** Wall, cutting edge, rim, what holds parts together, and imprint. */
export function CutterCards({ solid, layers, ...work }: Props) {
  const unit = useBenchStore((state) => state.unit);
  const field = (name: keyof Cutter) => <PartField {...work} at={`solid.${name}`} />;
  return (
    <>
      <WorkCard title="Wall">
        {field("lines")}
        <div className="field-pairs">
          {field("line_mm")}
          {field("height_mm")}
        </div>
        <dl className="facts">
          <dt>Wall thickness</dt>
          <dd data-testid="wall-thickness">{lengthWithUnit(Math.round(solid.lines * solid.line_mm * 1000) / 1000, unit)}</dd>
        </dl>
        {field("clearance_mm")}
        {field("holes")}
        {field("mirror")}
      </WorkCard>
      <WorkCard title="Cutting edge">
        <div className="field-pairs">
          {field("edge_mm")}
          {field("edge_height_mm")}
        </div>
      </WorkCard>
      <WorkCard title="Rim">
        <div className="field-pairs">
          {field("rim_mm")}
          {field("rim_height_mm")}
        </div>
        {field("rim_round")}
      </WorkCard>
      <WorkCard title="Held together">
        <div className="field-pairs">
          {field("bars")}
          {field("bar_mm")}
        </div>
        {field("handle_mm")}
      </WorkCard>
      <ImprintCard solid={solid} layers={layers} {...work} />
    </>
  );
}

function ImprintCard({ solid, layers, ...work }: Props) {
  const setbackOf = (at: number) => solid.setbacks_mm[at] ?? solid.setback_mm;
  const drawn = layers.filter((layer) => !layer.ground).length;
  return (
    <WorkCard title="Imprint" on={solid.imprint} onSwitch={(on) => work.editing.keep(`Imprint ${on ? "on" : "off"}`, patchAt("solid.imprint", on))}>
      {solid.imprint ? (
        <>
          {drawn < 2 && <p className="text-warning-emphasis mb-0">Only one tone is followed; choose several tones at Outlines.</p>}
          <PartField {...work} at="solid.setback_mm" />
          {drawn > 2 && (
            <LayerFields
              {...work}
              at="solid.setbacks_mm"
              layers={layers}
              valueOf={setbackOf}
              labelOf={(layer) => (layer.ground ? null : `${layer.name} behind the edge`)}
              tell={(layer, mm) => `${layer.name} ${mm} mm behind the edge`}
            />
          )}
          <div className="field-pairs">
            <PartField {...work} at="solid.plate_mm" />
            <PartField {...work} at="solid.gap_mm" />
          </div>
        </>
      ) : (
        <p className="quiet-label">The picture's other tones are pressed in as lines.</p>
      )}
    </WorkCard>
  );
}
