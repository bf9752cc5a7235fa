import { useLayers, useLayerFixes } from "../../../api/printing";
import type { Finding, LayerFix, LayersView } from "../../../api/client";
import { useBenchStore } from "../../../state/benchStore";
import { usePlan } from "../../../state/previews";
import { useLooked } from "../../../state/useLooked";
import { Button } from "../../../ui/Button";
import { FindingList } from "../../../ui/FindingList";
import { WorkCard } from "../../../ui/WorkCard";
import { useNewRow } from "../fields/newRow";
import { PartField, PartFields } from "../fields/PartField";
import type { AnyStationProps, WorkedStationProps } from "../stationProps";
import { amounts, hours } from "./amounts";

/** What is close enough to see lines lie beside each other, pixels to a mm. */
const CLOSE = 26;
/** So many cells along its longest side, where a surface is made anew. */
const ANEW = 200;
const WALLS = ["thin-wall", "awkward-wall"];
const HANGING = ["island", "bridge", "overhang", "scars"];
const FIELDS_BESIDE = ["first_mm", "varied", "cusp_mm", "down", "bands", "colour_change_s"];

/** The layers that the piece is printed in: what they take, and what is wrong with them. */
export function LayersCard({ pieceId, revision, document, editing }: AnyStationProps) {
  const looked = useLooked(pieceId, revision);
  const layers = useLayers(looked, true);
  const { data } = layers;
  const set = useBenchStore((state) => state.set);
  const byLayers = useBenchStore((state) => state.byLayers);
  const wrong = data?.findings.some(({ finding: { measure } }) => [...WALLS, ...HANGING].includes(measure)) ?? false;
  const fixes = useLayerFixes(looked, wrong && !layers.isPlaceholderData);
  const work = { document, editing };
  const show = (finding: Finding) => {
    const found = data?.findings.find((each) => each.finding === finding);
    if (!data || !found?.layer) return;
    const [x, y] = overPlate(data, finding);
    set({ byLayers: true, layer: found.layer, closeUp: { x, y, scale: CLOSE } });
    if (finding.where) set({ cursor: { x: finding.where[0], y: finding.where[1] } });
  };
  return (
    <WorkCard title="Layers">
      <div className="field-pairs">
        <PartField {...work} at="maker.layer_mm" />
        <PartField {...work} at="maker.line_width_mm" />
        <PartField {...work} at="printing.first_mm" />
        <PartField {...work} at="printing.cusp_mm" />
      </div>
      <PartField {...work} at="printing.varied" />
      {layers.error && (
        <div className="measure-refusal d-flex gap-2 align-items-start">
          <span role="alert">{layers.error.message}</span>
          {"steps" in document && <RepairFix document={document} editing={editing} />}
        </div>
      )}
      {!data && !layers.error && <p className="quiet-label">Cutting into layers …</p>}
      {data && (
        <div aria-busy={layers.isPlaceholderData} className={layers.isPlaceholderData ? "is-awaited" : undefined}>
          <LayerFacts data={data} />
          <Button size="sm" variant="outline-secondary" aria-pressed={byLayers} onClick={() => set({ byLayers: !byLayers })}>
            <i className="bi bi-layers me-2" aria-hidden="true" />
            {byLayers ? "Back to the section line" : "Look through the layers"}
          </Button>
          {data.findings.length > 0 && (
            <div className="layer-findings" role="group" aria-label="What layers tell">
              <FindingList
                findings={data.findings.map(({ finding }) => withFix(finding, fixes.data ?? []))}
                canShow={({ where }) => Boolean(where)}
                onShow={(finding) => show(data.findings.find((each) => each.finding.what === finding.what)?.finding ?? finding)}
                onFix={({ fix }) => fix && editing.keep(fix.words, fix.parameters)}
              />
            </div>
          )}
          <Fixes fixes={fixes.data} awaited={fixes.isFetching} refusal={fixes.error?.message} onKeep={(fix) => editing.keep(fix.words, fix.change)} />
        </div>
      )}
      <details className="how-laid">
        <summary>How it is laid</summary>
        <PartFields {...work} at="printing" without={FIELDS_BESIDE} />
      </details>
    </WorkCard>
  );
}

/** What lets layers be cut, where the mesh came from elsewhere. */
function RepairFix({ document, editing }: Pick<WorkedStationProps, "document" | "editing">) {
  const newStep = useNewRow(document, "steps");
  const longest = Math.max(...(usePlan()?.head.size_mm ?? [0]));
  // What a repair left is made anew.
  const repaired = document.steps.some(({ kind, on }) => kind === "repair" && on);
  const words = repaired ? "Make the surface anew" : "Repair";
  const step = () => (repaired ? newStep("remesh", longest > 0 ? { voxel_mm: Math.max(0.001, Number((longest / ANEW).toPrecision(2))) } : {}) : newStep("repair"));
  return (
    <Button size="sm" variant="outline-secondary" aria-label={`Fix: ${words}`} onClick={() => editing.keep(words, { steps: [...document.steps, step()] })}>
      Fix
    </Button>
  );
}

function LayerFacts({ data }: { data: LayersView }) {
  const { report, size_mm: size, scars_mm2: scars } = data;
  const [low, high] = report.layer_mm;
  const parts = Object.entries(report.minutes_of).filter(([, minutes]) => minutes >= 0.5);
  return (
    <dl className="facts" data-testid="layer-facts">
      <dt>Layers</dt>
      <dd>
        {report.layers.toLocaleString("en")} of {low === high ? low : `${low.toFixed(2)}–${high.toFixed(2)}`} mm
      </dd>
      <dt>Steps on slopes</dt>
      <dd>{report.cusp_mm.toFixed(3)} mm at most</dd>
      <dt>Stands</dt>
      <dd>
        {size.map((side) => side.toFixed(1)).join(" × ")} mm{data.fits_bed ? "" : ", more than the bed"}
      </dd>
      <dt>About</dt>
      <dd>{amounts({ minutes: report.minutes + data.swap_minutes, grams: report.grams, price: data.price })}</dd>
      <dt>Of that</dt>
      <dd className="quiet-label">{[...parts, ...(data.swap_minutes >= 0.5 ? ([["colours", data.swap_minutes]] as const) : [])].map(([name, minutes]) => `${name} ${hours(minutes)}`).join(", ")}</dd>
      <dt>Support</dt>
      <dd>{report.support_mm3 < 0.5 ? "none" : `${(report.support_mm3 / 1000).toFixed(2)} cm³ below ${Math.round(report.overhang_mm2).toLocaleString("en")} mm²`}</dd>
      {scars[0] >= 0.5 && (
        <>
          <dt>It touches</dt>
          <dd>
            {Math.round(scars[0]).toLocaleString("en")} mm², {scars[1] >= 0.5 ? `${Math.round(scars[1]).toLocaleString("en")} of them where it shows` : "nothing that shows"}
          </dd>
        </>
      )}
      {data.swaps > 0 && (
        <>
          <dt>Colour changes</dt>
          <dd>
            {data.swaps.toLocaleString("en")}, {hours(data.swap_minutes)}
          </dd>
        </>
      )}
    </dl>
  );
}

interface FixesProps {
  fixes: readonly LayerFix[] | undefined;
  awaited: boolean;
  refusal: string | undefined;
  onKeep: (fix: LayerFix) => void;
}

/** What would help, each tried and measured. */
function Fixes({ fixes, awaited, refusal, onKeep }: FixesProps) {
  if (awaited && !fixes) return <p className="quiet-label">Trying what would help …</p>;
  if (refusal) return <p className="quiet-label">{refusal}</p>;
  return fixes?.map((fix) => (
    <div key={fix.words} className="d-flex align-items-center gap-2" data-testid="layer-fix">
      <span className="flex-grow-1 quiet-label">
        {fix.words}: {effectOf(fix)}.
      </span>
      <Button size="sm" variant="outline-secondary" aria-label={`Fix: ${fix.words}`} onClick={() => onKeep(fix)}>
        Fix
      </Button>
    </div>
  ));
}

function effectOf({ mends, before, after, islands }: LayerFix): string {
  if (mends === "walls") return after < 0.5 ? "then no thin or awkward wall is left" : `then ${percentLess(before, after)} less thin and awkward walls`;
  const told = after < 0.5 ? "then no support" : `then ${(after / 1000).toFixed(2)} cm³ of support instead of ${(before / 1000).toFixed(2)}`;
  return islands > 0 ? `${told}, ${islands} still in mid-air` : told;
}

function percentLess(before: number, after: number): string {
  return `${Math.round(100 * (1 - after / before))} %`;
}

/** A finding with the first change that mends its kind. */
function withFix(finding: Finding, fixes: readonly LayerFix[]): Finding {
  const mends = WALLS.includes(finding.measure) ? "walls" : HANGING.includes(finding.measure) ? "hanging" : null;
  const fix = fixes.find((each) => each.mends === mends);
  return fix ? { ...finding, fix: { kind: "change", parameters: fix.change, words: fix.words } } : finding;
}

/** Where a finding is over the plate, in the report's own words. */
function overPlate({ report }: LayersView, finding: Finding): [number, number] {
  const told = report.findings.find((each) => each.what === finding.what)?.where;
  return told ? [told[0], told[1]] : [0, 0];
}
