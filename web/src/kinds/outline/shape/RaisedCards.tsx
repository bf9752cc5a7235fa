import Form from "react-bootstrap/Form";
import type { OutlineSolid, OutlinesView } from "../../../api/client";
import type { Editing } from "../../../state/useEditing";
import { LengthField } from "../../../ui/LengthField";
import { WorkCard } from "../../../ui/WorkCard";
import { BoundChoice, BoundLength, switchAt } from "../../common/bound";
import { BaseFields } from "./BaseFields";

type Raised = Extract<OutlineSolid, { kind: "raised" }>;

const EDGES = [
  { value: "square", label: "Square" },
  { value: "bevel", label: "Bevelled" },
  { value: "round", label: "Round" },
] as const;
const BANDS = [
  { value: "none", label: "All" },
  { value: "inside", label: "Inside" },
  { value: "centred", label: "Centred" },
  { value: "outside", label: "Outside" },
] as const;

interface Props {
  solid: Raised;
  editing: Editing;
  layers: OutlinesView["layers"];
}

/** Raised or cut through, with heights, base, edges, band and inlay. */
export function RaisedCards({ solid, editing, layers }: Props) {
  const heightOf = (at: number) => solid.heights_mm[at] ?? (layers[at]?.ground ? 0 : solid.thickness_mm);
  const cut = switchAt(editing, "Cut through", "solid.cut");
  const both = switchAt(editing, "Edge on both sides", "solid.edge_both");
  return (
    <>
      <WorkCard title="Height">
        <BoundLength label="Thickness" editing={editing} at="solid.thickness_mm" value={solid.thickness_mm} lowest={0.05} highest={500} slider={{ from: 0.4, to: 20 }} step={0.2} />
        {layers.length > 1 && (
          <div className="field-pairs">
            {layers.map((layer, at) => (
              <LengthField
                key={`${at} ${layer.name}`}
                label={layer.ground ? `${layer.name}, paper` : layer.name}
                value={heightOf(at)}
                lowest={0}
                highest={500}
                step={0.2}
                onKeep={(mm) => editing.keep(`${layer.name} ${mm} mm`, { solid: { heights_mm: layers.map((_, i) => (i === at ? mm : heightOf(i))) } })}
              />
            ))}
          </div>
        )}
      </WorkCard>
      <WorkCard title="Base">
        <BaseFields base={solid.base} editing={editing} at="solid.base" none />
        {solid.base.kind !== "none" && (
          <Form.Check id="cut-through" type="switch" label="Cut the outlines out of it" checked={solid.cut} onChange={(event) => cut(event.currentTarget.checked)} />
        )}
      </WorkCard>
      <WorkCard title="Edge">
        <BoundChoice label="Upper edge" editing={editing} at="solid.edge" value={solid.edge} options={EDGES} />
        {solid.edge !== "square" && (
          <>
            <BoundLength label="Edge size" editing={editing} at="solid.edge_mm" value={solid.edge_mm} lowest={0.02} highest={100} slider={{ from: 0.1, to: 3 }} step={0.1} />
            <Form.Check id="edge-both" type="switch" label="Below as well" checked={solid.edge_both} onChange={(event) => both(event.currentTarget.checked)} />
          </>
        )}
      </WorkCard>
      <WorkCard title="Band along the edge">
        <BoundChoice label="What stays" editing={editing} at="solid.shell" value={solid.shell} options={BANDS} />
        {solid.shell !== "none" && (
          <BoundLength label="Width of the band" editing={editing} at="solid.shell_mm" value={solid.shell_mm} lowest={0.05} highest={200} slider={{ from: 0.4, to: 8 }} step={0.1} />
        )}
      </WorkCard>
      <WorkCard title="Inlay pair" on={solid.inlay} onSwitch={switchAt(editing, "Inlay pair", "solid.inlay")}>
        {solid.inlay ? (
          <BoundLength label="Clearance" editing={editing} at="solid.clearance_mm" value={solid.clearance_mm} lowest={0} highest={10} slider={{ from: 0, to: 0.5 }} step={0.02} />
        ) : (
          <p className="quiet-label">A plate with a pocket, and beside it the insert that fits.</p>
        )}
      </WorkCard>
    </>
  );
}
