import type { ReactNode } from "react";
import { Button } from "../../../ui/Button";
import Form from "react-bootstrap/Form";
import { useBuild, useJobs } from "../../../api/pieces";
import { builtJob } from "../../../api/built";
import { useCancel } from "../../../state/useCancel";
import { saveFile, useFileJob } from "../../../state/useFileJob";
import { usePartSchemas } from "../../../state/partSchemas";
import { ReportFacts } from "../../../ui/ReportFacts";
import { JobProgress } from "../../../ui/JobProgress";
import { WorkCard } from "../../../ui/WorkCard";
import type { AnyStationProps } from "../stationProps";
import { ChoiceHint } from "../fields/PartCard";
import { BandsCard } from "../printing/BandsCard";
import { PrintCardCard } from "../printing/PrintCardCard";
import { PrinterCard } from "../printing/PrinterCard";
import { LightCard } from "./LightCard";
import { MakerCard } from "./router/MakerCard";
import { RouterCards } from "./router/RouterCards";
import { PaintCard } from "./PaintCard";

interface Props extends AnyStationProps {
  /** Whether it is made light by building it again, and not by simplifying its mesh. */
  rebuilt?: boolean;
  /** Whether it is made of outlines, which a router may sink. */
  sinks?: boolean;
  /** What else a kind of piece delivers. */
  children?: ReactNode;
}

/** One press: the final solid, proved and saved. */
export function DeliverStation({ pieceId, revision, document, editing, rebuilt = false, sinks = false, children }: Props) {
  const jobs = useJobs(pieceId);
  const build = useBuild(pieceId);
  const cancel = useCancel();
  const { newest, active, saveWhenDone } = useFileJob(pieceId, revision, "build");
  const done = builtJob(jobs.data, revision);
  const { format } = document.delivery;
  const carving = document.carving.on;
  const formats = usePartSchemas().field(document, "delivery.format");
  const name = formats.choices[format] ?? format;

  const press = () => {
    if (done) saveFile(done.id);
    else build.mutate(undefined, { onSuccess: saveWhenDone });
  };
  return (
    <>
      <MakerCard document={document} editing={editing}>
        <RouterCards pieceId={pieceId} revision={revision} document={document} editing={editing} sinks={sinks} />
      </MakerCard>
      <LightCard document={document} editing={editing} rebuilt={rebuilt} report={done?.result?.report} />
      {!carving && (
        <>
          <PaintCard document={document} editing={editing} />
          <BandsCard pieceId={pieceId} revision={revision} document={document} editing={editing} />
        </>
      )}
      <WorkCard title="File">
        <Form.Select
          size="sm"
          aria-label="File format"
          value={format}
          disabled={active !== undefined}
          onChange={(event) => {
            const chosen = event.currentTarget.value;
            editing.keep(`Deliver ${formats.choices[chosen]}`, { delivery: { format: chosen } });
          }}
        >
          {Object.entries(formats.choices).map(([each, words]) => (
            <option key={each} value={each}>
              {words}
            </option>
          ))}
        </Form.Select>
        {active ? (
          <JobProgress stage={active.stage} fraction={active.fraction} label="Build progress" testId="job-stage" onCancel={() => cancel(active)} />
        ) : (
          <Button onClick={press} disabled={build.isPending}>
            <i className="bi bi-box-arrow-down me-2" aria-hidden="true" />
            {done ? `Save ${name} again` : `Build and save ${name}`}
          </Button>
        )}
        {newest && !active && newest.state !== "done" && newest.state !== "cancelled" && (
          <p className="text-danger" role="alert">
            <i className="bi bi-x-octagon-fill me-1" aria-hidden="true" />
            {newest.message}
          </p>
        )}
        {newest?.state === "cancelled" && <p className="quiet-label">The last build was cancelled.</p>}
        {build.error && (
          <p className="text-danger" role="alert">
            {build.error.message}
          </p>
        )}
        {done?.result && (
          <>
            <p className="quiet-label text-break">{done.result.file_name}</p>
            <ReportFacts report={done.result.report} />
          </>
        )}
        <ChoiceHint document={document} at="delivery.format" />
      </WorkCard>
      {!carving && (
        <>
          <PrintCardCard pieceId={pieceId} revision={revision} />
          <PrinterCard done={done} />
        </>
      )}
      {children}
    </>
  );
}
