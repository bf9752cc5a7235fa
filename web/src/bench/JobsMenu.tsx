import Dropdown from "react-bootstrap/Dropdown";
import ProgressBar from "react-bootstrap/ProgressBar";
import type { JobView } from "../api/client";
import { useAgain, useJobs } from "../api/pieces";
import { isActive } from "../api/built";
import { useCancel } from "../state/useCancel";

const WORDS: Record<JobView["state"], string> = {
  waiting: "Waiting",
  running: "At work",
  done: "Done",
  failed: "Failed",
  cancelled: "Cancelled",
  interrupted: "Interrupted",
};

const KINDS: Record<string, string> = {
  build: "Build",
  picture: "Picture file",
  heights: "Height map",
  turntable: "Turntable",
  plate: "Pieces on one bed",
  carving: "Carving",
  service: "Depths from a service",
};

/** Whether a job came to nothing, and no newer one does the same. */
const isLeftUndone = (job: JobView, newer: JobView[]) =>
  (job.state === "failed" || job.state === "interrupted") && !newer.some((each) => each.kind === job.kind && each.revision === job.revision);

/** Long work on this piece: what runs, what ended how, and a second chance for what was interrupted. */
export function JobsMenu({ pieceId }: { pieceId: string }) {
  const jobs = useJobs(pieceId).data ?? [];
  const again = useAgain();
  const cancel = useCancel();
  const active = jobs.filter(isActive).length;
  return (
    <Dropdown align="end">
      <Dropdown.Toggle as="button" className="icon-button" aria-label={`Jobs, ${active} at work`} title="Jobs">
        <i className={active ? "bi bi-hourglass-split" : "bi bi-list-task"} aria-hidden="true" />
      </Dropdown.Toggle>
      <Dropdown.Menu style={{ width: 330 }} className="px-3 py-2">
        {jobs.length === 0 && <span className="quiet-label">No long work on this piece yet.</span>}
        {jobs.slice(0, 6).map((job, i) => (
          <div key={job.id} className="py-2 border-bottom">
            <div className="d-flex justify-content-between gap-2">
              <span>
                {KINDS[job.kind] ?? job.kind}, {WORDS[job.state].toLowerCase()}
                {isActive(job) && job.stage ? `: ${job.stage}` : ""}
              </span>
              {isActive(job) ? (
                <button type="button" className="icon-button py-0" onClick={() => cancel(job)}>
                  Cancel
                </button>
              ) : (
                <time className="quiet-label" dateTime={job.created}>
                  {new Date(job.created).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" })}
                </time>
              )}
            </div>
            {isActive(job) && <ProgressBar now={job.fraction * 100} aria-label="Progress" />}
            {(job.state === "failed" || job.state === "interrupted") && (
              <div className="quiet-label">
                {job.message}{" "}
                {isLeftUndone(job, jobs.slice(0, i)) && (
                  <button type="button" className="btn btn-link btn-sm p-0" disabled={again.isPending} onClick={() => again.mutate(job)}>
                    Start again
                  </button>
                )}
              </div>
            )}
          </div>
        ))}
        {again.error && (
          <p className="measure-refusal" role="alert">
            {again.error.message}
          </p>
        )}
      </Dropdown.Menu>
    </Dropdown>
  );
}
