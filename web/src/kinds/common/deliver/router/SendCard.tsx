import { useState } from "react";
import Form from "react-bootstrap/Form";
import ProgressBar from "react-bootstrap/ProgressBar";
import { isBusy, useRouter, useSending } from "../../../../api/carving";
import type { CarvingResult, RouterStatus } from "../../../../api/client";
import { Button } from "../../../../ui/Button";
import { Choice } from "../../../../ui/Choice";
import { WorkCard } from "../../../../ui/WorkCard";
import { timeTold } from "./timeTold";

const SPEEDS = [
  { value: "1", label: "true" },
  { value: "10", label: "× 10" },
  { value: "100", label: "× 100" },
] as const;
const STATES: Record<RouterStatus["state"], string> = {
  idle: "It stands idle.",
  running: "It runs",
  held: "It is held",
  waiting: "It waits for the next bit",
  finished: "It has finished",
  stopped: "It was stopped in",
  refused: "It refused a line of",
};

/** A program sent line by line to the simulated router, with what it says meanwhile. */
export function SendCard({ jobId, programs }: { jobId: string; programs: CarvingResult["programs"] }) {
  const standing = useRouter();
  const { send, tell } = useSending();
  const [number, setNumber] = useState(0);
  const [speed, setSpeed] = useState<(typeof SPEEDS)[number]["value"]>("10");
  const busy = isBusy(standing);
  const refusal = send.error ?? tell.error;
  return (
    <WorkCard title="Simulated router">
      {standing && standing.state !== "idle" && <Standing of={standing} />}
      {busy ? (
        <div className="d-flex gap-2">
          {standing?.state === "running" ? (
            <Button size="sm" variant="outline-secondary" onClick={() => tell.mutate("hold")}>
              Hold
            </Button>
          ) : (
            <Button size="sm" onClick={() => tell.mutate("resume")}>
              Go on
            </Button>
          )}
          <Button size="sm" variant="outline-secondary" onClick={() => tell.mutate("stop")}>
            Stop
          </Button>
        </div>
      ) : (
        <>
          <Form.Select size="sm" aria-label="Program to send" value={number} onChange={({ currentTarget }) => setNumber(Number(currentTarget.value))}>
            {programs.map((program, at) => (
              <option key={program.key} value={at}>
                {program.name}
              </option>
            ))}
          </Form.Select>
          <Choice label="Its clock runs" value={speed} options={SPEEDS} onChange={setSpeed} />
          <Button size="sm" variant="outline-secondary" disabled={send.isPending} onClick={() => send.mutate({ jobId, number, speed: Number(speed) })}>
            Send it line by line
          </Button>
        </>
      )}
      {refusal && (
        <p className="measure-refusal" role="alert">
          {refusal.message}
        </p>
      )}
    </WorkCard>
  );
}

function Standing({ of }: { of: RouterStatus }) {
  const { state, program, line, lines, place_mm, seconds, why } = of;
  return (
    <div data-testid="router-standing">
      <p className="mb-1 text-break">
        {STATES[state]} {state === "held" || state === "waiting" || state === "finished" ? "with " : ""}
        {program}.
      </p>
      <ProgressBar className="mb-1" aria-label="Lines of the program" max={lines} now={state === "finished" ? lines : line} />
      <p className="quiet-label mb-0">
        Line {line.toLocaleString("en")} of {lines.toLocaleString("en")}, {timeTold(seconds / 60)}, at {place_mm.map((part) => part.toFixed(2)).join(", ")} mm
      </p>
      {why && (
        <p className="measure-refusal" role="alert">
          {why}
        </p>
      )}
    </div>
  );
}
