import { useEffect, useState } from "react";
import Form from "react-bootstrap/Form";
import { useCarving } from "../../../../api/carving";
import type { CarvingResult } from "../../../../api/client";
import type { CarvingShown } from "../../../../api/preview";
import { useCarveStore } from "../../../../state/carveStore";
import { Button } from "../../../../ui/Button";
import { Choice } from "../../../../ui/Choice";
import { percent } from "./percent";
import { timeTold } from "./timeTold";

const SHOWN: readonly { value: CarvingShown | "piece"; label: string }[] = [
  { value: "stock", label: "Wood" },
  { value: "left", label: "Left" },
  { value: "reach", label: "Reach" },
  { value: "piece", label: "Piece" },
];
const KINDS: Record<string, string> = { rough: "Roughing", finish: "Finishing", steep: "Steep places", "rest-layer": "Layers of a finer bit", rest: "Finer bit", "cut-out": "Cut-out", pocket: "Clearing the floor", "v-carve": "V-carving", drill: "Drilling" };
const FRAME_MS = 180;

/** What the simulated router did, the time slider, and the programs that passed. */
export function CarvedFacts({ jobId, carved }: { jobId: string; carved: CarvingResult }) {
  const { facts, passes, programs, faults } = carved;
  const microns = (mm: number) => `${(1000 * mm).toFixed(1)} µm`;
  return (
    <>
      {faults.length > 0 && (
        <div role="alert" className="text-danger">
          <p className="mb-1">
            <i className="bi bi-x-octagon-fill me-1" aria-hidden="true" />
            It did not pass, so no program is offered.
          </p>
          <ul className="mb-0">
            {faults.slice(0, 5).map((fault) => (
              <li key={fault}>{fault}</li>
            ))}
          </ul>
        </div>
      )}
      <TimeSlider jobId={jobId} />
      <dl className="facts" data-testid="carved">
        <dt>Time</dt>
        <dd>{timeTold(facts.minutes)}</dd>
        <dt>Cuts in</dt>
        <dd>{microns(facts.gouge_max_mm)} at most</dd>
        <dt>Left over</dt>
        <dd>
          {facts.left_max_mm.toFixed(2)} mm at most, RMS {microns(facts.left_rms_mm)}
        </dd>
        <dt>Where bits reach</dt>
        <dd>{microns(facts.left_over_reachable_max_mm)} at most</dd>
      </dl>
      <table className="carved-passes">
        <tbody>
          {passes.map((pass, at) => (
            <tr key={at}>
              <td>
                {KINDS[pass.kind] ?? pass.kind}
                <div className="quiet-label">
                  {pass.bit}, then too much on {percent(pass.left_share)}
                </div>
              </td>
              <td className="text-end text-nowrap">{timeTold(pass.minutes)}</td>
              <td className="text-end text-nowrap">
                {pass.lifts} {pass.lifts === 1 ? "lift" : "lifts"}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {programs.length > 0 && (
        <>
          {programs.map((program, at) => (
            <a key={program.key} className="text-break" href={`/api/jobs/${jobId}/programs/${at}`} download>
              {program.name}
            </a>
          ))}
          <a href={`/api/jobs/${jobId}/set-up.pdf`} download>
            Set-up sheet (PDF)
          </a>
          <a href={`/api/jobs/${jobId}/file`} download>
            All of it in a ZIP
          </a>
        </>
      )}
    </>
  );
}

function TimeSlider({ jobId }: { jobId: string }) {
  const carving = useCarving(jobId).data;
  const { shown, step, ways, set } = useCarveStore();
  const [playing, setPlaying] = useState(false);
  const last = (carving?.minutes.length ?? 1) - 1;
  const at = Math.min(step ?? last, last);
  useEffect(() => {
    if (!playing) return undefined;
    const timer = window.setTimeout(() => {
      if (at >= last) setPlaying(false);
      else set({ step: at + 1 });
    }, FRAME_MS);
    return () => window.clearTimeout(timer);
  }, [playing, at, last, set]);
  if (!carving) return null;
  return (
    <>
      <Choice
        label="The Model shows"
        value={shown ?? "piece"}
        options={SHOWN}
        onChange={(value) => set({ shown: value === "piece" ? null : value })}
      />
      {shown && shown !== "stock" && (
        <p className="quiet-label">{shown === "left" ? "What stands over the asked surface." : "What all bits together cannot reach."}</p>
      )}
      <div className="d-flex align-items-center gap-2">
        <Button
          size="sm"
          variant="outline-secondary"
          aria-pressed={playing}
          onClick={() => {
            if (!playing && at >= last) set({ step: 0 });
            if (shown === null) set({ shown: "stock" });
            setPlaying(!playing);
          }}
        >
          {playing ? "Stop" : "Play"}
        </Button>
        <Form.Range
          aria-label="Time of the cutting"
          min={0}
          max={last}
          value={at}
          onChange={({ currentTarget }) => {
            setPlaying(false);
            set({ step: Number(currentTarget.value) });
          }}
        />
        <span className="text-nowrap" data-testid="carve-time">
          {timeTold(carving.minutes[at] ?? 0)}
        </span>
      </div>
      <Form.Check type="switch" id="carve-ways" label="Ways of the bits on the Plan" checked={ways} onChange={({ currentTarget }) => set({ ways: currentTarget.checked })} />
    </>
  );
}
