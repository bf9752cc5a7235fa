import { useCarve } from "../../../../api/carving";
import { isActive } from "../../../../api/built";
import { useJobs } from "../../../../api/pieces";
import { useCancel } from "../../../../state/useCancel";
import { Button } from "../../../../ui/Button";
import { JobProgress } from "../../../../ui/JobProgress";
import { WorkCard } from "../../../../ui/WorkCard";
import type { AnyStationProps } from "../../stationProps";
import { CarvedFacts } from "./CarvedFacts";
import { SendCard } from "./SendCard";

/** One press: the work planned and proved on the simulated router. */
export function CarveCard({ pieceId, revision }: AnyStationProps) {
  const jobs = useJobs(pieceId).data;
  const carve = useCarve(pieceId);
  const cancel = useCancel();
  const job = jobs?.find((each) => each.kind === "carving" && each.revision === revision);
  const active = job && isActive(job) ? job : undefined;
  const done = job?.state === "done" ? job.carving : undefined;
  const refusal = carve.error?.message ?? (job && ["failed", "interrupted"].includes(job.state) ? job.message : "");
  return (
    <>
      <WorkCard title="Carve">
        {active ? (
          <JobProgress stage={active.stage} fraction={active.fraction} label="Progress of the carving" testId="carve-stage" onCancel={() => cancel(active)} />
        ) : (
          <Button onClick={() => carve.mutate()} disabled={carve.isPending}>
            <i className="bi bi-gear me-2" aria-hidden="true" />
            {done ? "Plan and prove it again" : "Plan and prove the carving"}
          </Button>
        )}
        {refusal && (
          <p className="measure-refusal" role="alert">
            {refusal}
          </p>
        )}
        {done && job && <CarvedFacts jobId={job.id} carved={done} />}
      </WorkCard>
      {done && job && done.programs.length > 0 && <SendCard jobId={job.id} programs={done.programs} />}
    </>
  );
}
