import Form from "react-bootstrap/Form";
import type { OutlineSolid, OutlinesView } from "../../../api/client";
import { useBenchStore } from "../../../state/benchStore";
import type { Editing } from "../../../state/useEditing";
import { LengthField } from "../../../ui/LengthField";
import { lengthWithUnit } from "../../../state/units";
import { WorkCard } from "../../../ui/WorkCard";
import { BoundLength, BoundNumber, switchAt } from "../../common/bound";

type Cutter = Extract<OutlineSolid, { kind: "cutter" }>;

interface Props {
  solid: Cutter;
  editing: Editing;
  layers: OutlinesView["layers"];
}

/** Wall, cutting edge, rim, what holds parts together, and imprint. */
export function CutterCards({ solid, editing, layers }: Props) {
  const unit = useBenchStore((state) => state.unit);
  const holes = switchAt(editing, "Cut holes too", "solid.holes");
  const round = switchAt(editing, "Rounded rim", "solid.rim_round");
  const mirror = switchAt(editing, "Mirrored", "solid.mirror");
  const setbackOf = (at: number) => solid.setbacks_mm[at] ?? solid.setback_mm;
  const drawn = layers.filter((layer) => !layer.ground).length;
  return (
    <>
      <WorkCard title="Wall">
        <BoundNumber label="Printed lines" editing={editing} at="solid.lines" value={solid.lines} unit="" whole lowest={1} highest={40} slider={{ from: 1, to: 8 }} step={1} />
        <div className="field-pairs">
          <BoundLength label="Line width" editing={editing} at="solid.line_mm" value={solid.line_mm} lowest={0.05} highest={5} step={0.05} />
          <BoundLength label="Height" editing={editing} at="solid.height_mm" value={solid.height_mm} lowest={2} highest={200} step={1} />
        </div>
        <dl className="facts">
          <dt>Wall thickness</dt>
          <dd data-testid="wall-thickness">{lengthWithUnit(Math.round(solid.lines * solid.line_mm * 1000) / 1000, unit)}</dd>
        </dl>
        <BoundLength label="Room for the dough" editing={editing} at="solid.clearance_mm" value={solid.clearance_mm} lowest={0} highest={20} slider={{ from: 0, to: 3 }} step={0.1} />
        <Form.Check id="cut-holes" type="switch" label="Cut holes too" checked={solid.holes} onChange={(event) => holes(event.currentTarget.checked)} />
        <Form.Check id="cutter-mirror" type="switch" label="Mirrored, so that what is cut looks like the outline" checked={solid.mirror} onChange={(event) => mirror(event.currentTarget.checked)} />
      </WorkCard>
      <WorkCard title="Cutting edge">
        <div className="field-pairs">
          <BoundLength label="Edge thickness" editing={editing} at="solid.edge_mm" value={solid.edge_mm} lowest={0.05} highest={20} step={0.1} />
          <BoundLength label="Edge height" editing={editing} at="solid.edge_height_mm" value={solid.edge_height_mm} lowest={0} highest={100} step={0.5} />
        </div>
      </WorkCard>
      <WorkCard title="Rim">
        <div className="field-pairs">
          <BoundLength label="Rim width" editing={editing} at="solid.rim_mm" value={solid.rim_mm} lowest={0} highest={100} step={0.5} />
          <BoundLength label="Rim height" editing={editing} at="solid.rim_height_mm" value={solid.rim_height_mm} lowest={0.2} highest={50} step={0.5} />
        </div>
        <Form.Check id="rim-round" type="switch" label="Rounded" checked={solid.rim_round} onChange={(event) => round(event.currentTarget.checked)} />
      </WorkCard>
      <WorkCard title="Held together">
        <div className="field-pairs">
          <BoundNumber label="Bars between parts" editing={editing} at="solid.bars" value={solid.bars} unit="" whole lowest={0} highest={4} step={1} />
          <BoundLength label="Bar width" editing={editing} at="solid.bar_mm" value={solid.bar_mm} lowest={0.4} highest={50} step={0.5} />
        </div>
        <BoundLength label="Handle across, 0 for none" editing={editing} at="solid.handle_mm" value={solid.handle_mm} lowest={0} highest={100} slider={{ from: 0, to: 30 }} step={1} />
      </WorkCard>
      <WorkCard title="Imprint" on={solid.imprint} onSwitch={switchAt(editing, "Imprint", "solid.imprint")}>
        {solid.imprint ? (
          <>
            {drawn < 2 && <p className="text-warning-emphasis mb-0">Only one tone is followed; choose several tones at Outlines.</p>}
            <BoundLength label="Behind the cutting edge" editing={editing} at="solid.setback_mm" value={solid.setback_mm} lowest={0} highest={100} slider={{ from: 0, to: 12 }} step={0.5} />
            {drawn > 2 && (
              <div className="field-pairs">
                {layers.map((layer, at) =>
                  layer.ground ? null : (
                    <LengthField
                      key={`${at} ${layer.name}`}
                      label={`${layer.name} behind the edge`}
                      value={setbackOf(at)}
                      lowest={0}
                      highest={100}
                      step={0.5}
                      onKeep={(mm) => editing.keep(`${layer.name} ${mm} mm behind the edge`, { solid: { setbacks_mm: layers.map((_, i) => (i === at ? mm : setbackOf(i))) } })}
                    />
                  ),
                )}
              </div>
            )}
            <div className="field-pairs">
              <BoundLength label="Plate" editing={editing} at="solid.plate_mm" value={solid.plate_mm} lowest={0.2} highest={50} step={0.2} />
              <BoundLength label="Away from the wall" editing={editing} at="solid.gap_mm" value={solid.gap_mm} lowest={0} highest={50} step={0.1} />
            </div>
          </>
        ) : (
          <p className="quiet-label">The picture's other tones are pressed in as lines.</p>
        )}
      </WorkCard>
    </>
  );
}
