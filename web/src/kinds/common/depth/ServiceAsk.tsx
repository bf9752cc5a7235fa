import { useEffect, useRef, useState } from "react";
import type { JobView } from "../../../api/client";
import { isActive } from "../../../api/built";
import { useDepthService } from "../../../api/depthSources";
import { useJobs } from "../../../api/pieces";
import { useCancel } from "../../../state/useCancel";
import { Button } from "../../../ui/Button";
import { JobProgress } from "../../../ui/JobProgress";
import { Choice } from "../../../ui/Choice";
import type { DepthHome } from "./depthHome";

type Depths = NonNullable<JobView["depths"]>;
type Gives = "depth" | "solid";

const SENT_BACK: readonly { value: Gives; label: string }[] = [
  { value: "depth", label: "It sends depths" },
  { value: "solid", label: "It sends a solid" },
];

interface Props {
  pieceId: string;
  depth: Pick<DepthHome["depth"], "blob">;
  onTake: (file: Pick<Depths, "blob" | "name" | "span_mm">) => void;
}

/** A service that makes depths of the picture: what it costs, how far it is, why it failed. */
export function ServiceAsk({ pieceId, depth, onTake }: Props) {
  const { terms, ask } = useDepthService(pieceId);
  const cancel = useCancel();
  const [gives, setGives] = useState<Gives>("depth");
  const job = useJobs(pieceId).data?.find(({ kind }) => kind === "service");
  const made = job?.state === "done" ? job.depths : undefined;
  const take = ({ blob, name, span_mm }: Depths) => onTake({ blob, name, span_mm });
  // What was asked for on this page is taken as soon as it is there.
  const awaited = useRef<string | null>(null);
  useEffect(() => {
    if (made && awaited.current === job?.id) {
      awaited.current = null;
      take(made);
    }
  });
  const price = terms && `${terms.cost.toLocaleString("en")} ${terms.cost_unit}`;
  const press = () => ask.mutate(gives, { onSuccess: ({ id }) => void (awaited.current = id) });
  const refusal = terms?.problem || ask.error?.message || (job && ["failed", "interrupted"].includes(job.state) ? job.message : "");
  return (
    <div className="service-ask" data-testid="service">
      {terms && !terms.problem && (
        <p className="quiet-label">
          {terms.simulated
            ? "No service is set up, so a simulated one on this machine stands in. It is slow, and fails now and then, as real ones do."
            : `The picture and its cut-out are sent to ${terms.name}.`}
        </p>
      )}
      <Choice label="It sends back" value={gives} options={SENT_BACK} onChange={setGives} />
      {job && isActive(job) ? (
        <JobProgress stage={job.stage} fraction={job.fraction} label="Progress of the service" testId="service-stage" onCancel={() => cancel(job)} />
      ) : (
        <Button size="sm" onClick={press} disabled={!terms || Boolean(terms.problem) || ask.isPending}>
          {job?.state === "failed" ? "Try again" : price ? `Ask it, for ${price}` : "Ask it"}
        </Button>
      )}
      {refusal && (
        <p className="measure-refusal" role="alert">
          {refusal}
        </p>
      )}
      {made && (
        <p className="quiet-label" data-testid="service-made">
          {`Made by ${made.name} for ${made.cost.toLocaleString("en")} ${made.cost_unit}.`}
          {made.blob !== depth.blob && (
            <Button size="sm" variant="outline-secondary" className="ms-2" onClick={() => take(made)}>
              Use it
            </Button>
          )}
        </p>
      )}
    </div>
  );
}
