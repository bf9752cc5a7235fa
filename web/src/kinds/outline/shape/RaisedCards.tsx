import type { OutlineSolid, OutlinesView } from "../../../api/client";
import { WorkCard } from "../../../ui/WorkCard";
import { ChoiceHint } from "../../common/fields/PartCard";
import { PartField, PartFields, type Work } from "../../common/fields/PartField";
import { patchAt } from "../../common/fields/patchAt";
import { LayerColours } from "./LayerColours";
import { LayerFields } from "./LayerFields";

type Raised = Extract<OutlineSolid, { kind: "raised" }>;

interface Props extends Work {
  solid: Raised;
  layers: OutlinesView["layers"];
}

/** Raised or cut through, with heights, base, edges, band and inlay. */
export function RaisedCards({ solid, layers, ...work }: Props) {
  const heightOf = (at: number) => solid.heights_mm[at] ?? (layers[at]?.ground ? 0 : solid.thickness_mm);
  return (
    <>
      <WorkCard title="Height">
        <PartField {...work} at="solid.thickness_mm" />
        {layers.length > 1 && (
          <LayerFields
            {...work}
            at="solid.heights_mm"
            layers={layers}
            valueOf={heightOf}
            labelOf={(layer) => (layer.ground ? `${layer.name}, paper` : layer.name)}
            tell={(layer, mm) => `${layer.name} ${mm} mm`}
          />
        )}
      </WorkCard>
      {layers.length > 1 && !solid.cut && !solid.inlay && (
        <WorkCard title="Colours of the layers">
          <LayerColours {...work} colours={solid.colours} layers={layers} />
        </WorkCard>
      )}
      <WorkCard title="Base">
        <PartFields {...work} at="solid.base" />
        {solid.base.kind !== "none" && <PartField {...work} at="solid.cut" />}
      </WorkCard>
      <WorkCard title="Edge">
        <PartField {...work} at="solid.edge" />
        <PartField {...work} at="solid.edge_mm" />
        <PartField {...work} at="solid.profile_mm" />
        <ChoiceHint document={work.document} at="solid.edge" />
        <PartField {...work} at="solid.edge_both" />
      </WorkCard>
      <WorkCard title="Band along the edge">
        <PartField {...work} at="solid.shell" />
        <PartField {...work} at="solid.shell_mm" />
      </WorkCard>
      <WorkCard title="Inlay pair" on={solid.inlay} onSwitch={(on) => work.editing.keep(`Inlay pair ${on ? "on" : "off"}`, patchAt("solid.inlay", on))}>
        {solid.inlay ? <PartField {...work} at="solid.clearance_mm" /> : <p className="quiet-label">A plate with a pocket, and beside it the insert that fits.</p>}
      </WorkCard>
    </>
  );
}
