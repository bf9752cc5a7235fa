import Form from "react-bootstrap/Form";
import type { OutlinesView, TracedDocument } from "../../api/client";
import type { Editing } from "../../state/useEditing";
import { WorkCard } from "../../ui/WorkCard";
import { ChoiceHint } from "../common/fields/PartCard";
import { PartField } from "../common/fields/PartField";
import { patchAt } from "../common/fields/patchAt";
import { shownCurves } from "./mendKinds";

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
  const work = { document, editing };
  return (
    <WorkCard title="From the picture">
      <PartField {...work} at="trace.by" />
      <ChoiceHint document={document} at="trace.by" />
      <PartField {...work} at="trace.tones" />
      <PartField {...work} at="trace.ink" />
      {trace.by !== "tones" && (
        <Form.Check
          id="trace-auto"
          type="switch"
          label="Find the tone at the edge"
          checked={trace.level == null}
          onChange={(event) =>
            editing.keep(event.currentTarget.checked ? "Tone at the edge found" : "Tone at the edge set", patchAt("trace.level", event.currentTarget.checked ? null : HALF))
          }
        />
      )}
      {trace.level != null && <PartField {...work} at="trace.level" />}
      <PartField {...work} at={trace.tolerance_mm == null ? "trace.smooth" : "trace.tolerance_mm"} />
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
        <PartField {...work} at="trace.smallest_part_mm2" />
        <PartField {...work} at="trace.smallest_hole_mm2" />
      </div>
      {view && (
        <dl className="facts">
          <dt>Outlines</dt>
          <dd data-testid="outline-count">{shownCurves(view).length.toLocaleString("en")}</dd>
          <dt>Nodes</dt>
          <dd>{view.nodes.toLocaleString("en")}</dd>
          {view.ink && (
            <>
              <dt>Taken for what is drawn</dt>
              <dd data-testid="ink-guess">
                {view.ink}, sure by {Math.round(100 * (view.ink_sure ?? 0))}{"\u00a0"}%
              </dd>
            </>
          )}
          <dt>Furthest from the edge</dt>
          <dd>{view.max_deviation_mm.toFixed(3)} mm</dd>
        </dl>
      )}
    </WorkCard>
  );
}
