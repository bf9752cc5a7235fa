import Form from "react-bootstrap/Form";
import type { OutlinesView, TracedDocument } from "../../api/client";
import type { Editing } from "../../state/useEditing";
import { WorkCard } from "../../ui/WorkCard";
import { BoundChoice, BoundLength, BoundNumber } from "../common/bound";
import { patchAt } from "../common/patchAt";
import { shownCurves } from "./mendKinds";

const BY = [
  { value: "level", label: "One edge" },
  { value: "tones", label: "Several tones" },
  { value: "centre-line", label: "Middles of lines" },
] as const;
const INK = [
  { value: "auto", label: "Whichever is less" },
  { value: "dark", label: "Dark" },
  { value: "bright", label: "Bright" },
] as const;
const WORDS = {
  level: "The edge runs where the picture passes one tone, between its pixels.",
  tones: "Every tone gets its own areas; neighbours share their border exactly.",
  "centre-line": "Drawn lines become strokes as wide as they were drawn.",
} as const;
const HALF = 0.5;
const FIRST_MM = 0.05;

interface Props {
  document: TracedDocument;
  editing: Editing;
  view: OutlinesView | undefined;
}

/** Which edges of the picture are followed, and how faithfully. */
export function TraceCard({ document, editing, view }: Props) {
  const { trace } = document;
  return (
    <WorkCard title="From the picture">
      <BoundChoice label="What is followed?" editing={editing} at="trace.by" value={trace.by} options={BY} />
      <p className="quiet-label">{WORDS[trace.by]}</p>
      {trace.by === "tones" ? (
        <BoundNumber label="Tones" editing={editing} at="trace.tones" value={trace.tones} unit="" whole lowest={2} highest={12} slider={{ from: 2, to: 8 }} step={1} />
      ) : (
        <>
          <BoundChoice label="What is drawn?" editing={editing} at="trace.ink" value={trace.ink} options={INK} />
          <Form.Check
            id="trace-auto"
            type="switch"
            label="Find the tone at the edge"
            checked={trace.level == null}
            onChange={(event) =>
              editing.keep(event.currentTarget.checked ? "Tone at the edge found" : "Tone at the edge set", patchAt("trace.level", event.currentTarget.checked ? null : HALF))
            }
          />
          {trace.level != null && (
            <BoundNumber label="Tone at the edge" editing={editing} at="trace.level" value={trace.level} unit="" share lowest={0.01} highest={0.99} slider={{ from: 0.02, to: 0.98 }} step={0.01} />
          )}
        </>
      )}
      {trace.tolerance_mm == null ? (
        <BoundNumber label="Faithful to smooth" editing={editing} at="trace.smooth" value={trace.smooth} unit="" share lowest={0} highest={1} slider={{ from: 0, to: 1 }} step={0.05} />
      ) : (
        <BoundLength label="Curves may leave the edge by" editing={editing} at="trace.tolerance_mm" value={trace.tolerance_mm} lowest={0.001} highest={20} slider={{ from: 0.005, to: 0.5 }} step={0.01} />
      )}
      <Form.Check
        id="trace-tolerance"
        type="switch"
        label="Say it in mm"
        checked={trace.tolerance_mm != null}
        onChange={(event) => {
          const inMm = event.currentTarget.checked;
          editing.keep(inMm ? "Distance from the edge in mm" : "Faithful to smooth", patchAt("trace.tolerance_mm", inMm ? FIRST_MM : null));
        }}
      />
      <div className="field-pairs">
        <BoundNumber label="Smallest part" editing={editing} at="trace.smallest_part_mm2" value={trace.smallest_part_mm2} unit="mm²" lowest={0} highest={100_000} step={0.1} />
        <BoundNumber label="Smallest hole" editing={editing} at="trace.smallest_hole_mm2" value={trace.smallest_hole_mm2} unit="mm²" lowest={0} highest={100_000} step={0.1} />
      </div>
      {view && (
        <dl className="facts">
          <dt>Outlines</dt>
          <dd data-testid="outline-count">{shownCurves(view).length.toLocaleString("en")}</dd>
          <dt>Nodes</dt>
          <dd>{view.nodes.toLocaleString("en")}</dd>
          <dt>Furthest from the edge</dt>
          <dd>{view.max_deviation_mm.toFixed(3)} mm</dd>
        </dl>
      )}
    </WorkCard>
  );
}
