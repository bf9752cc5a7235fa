import { Button } from "../../ui/Button";
import { useJobs } from "../../api/pieces";
import { useBenchStore, type Light } from "../../bench/benchStore";
import { builtReport } from "../../bench/built";
import { lineInMm, FIRST_LINE, lineLength } from "../../views/spot";
import { ReportFacts } from "../../ui/ReportFacts";
import { lengthWithUnit } from "../../ui/units";
import { WorkCard } from "../../ui/WorkCard";
import type { StationProps } from "../stationProps";

const LAMPS: { name: string; light: Light }[] = [
  { name: "From the left", light: { fromDeg: 180, aboveDeg: 14 } },
  { name: "From above", light: { fromDeg: 90, aboveDeg: 14 } },
  { name: "From the right", light: { fromDeg: 0, aboveDeg: 14 } },
  { name: "Straight on", light: { fromDeg: 90, aboveDeg: 84 } },
];

/** Look, measure, compare. */
export function ProofStation({ pieceId, revision }: StationProps) {
  const unit = useBenchStore((state) => state.unit);
  const plan = useBenchStore((state) => state.plan);
  const share = useBenchStore((state) => state.line) ?? FIRST_LINE;
  const set = useBenchStore((state) => state.set);
  const jobs = useJobs(pieceId);
  const report = builtReport(jobs.data, revision);
  const line = plan ? lineInMm(share, plan.head.size_mm) : null;
  return (
    <>
      <WorkCard title="Section">
        {line && (
          <dl className="facts">
            <dt>Length</dt>
            <dd>{lengthWithUnit(lineLength(line), unit)}</dd>
            <dt>From</dt>
            <dd>
              {lengthWithUnit(line.start.x, unit)}, {lengthWithUnit(line.start.y, unit)}
            </dd>
            <dt>To</dt>
            <dd>
              {lengthWithUnit(line.end.x, unit)}, {lengthWithUnit(line.end.y, unit)}
            </dd>
          </dl>
        )}
        <div className="d-flex gap-2">
          <Button size="sm" variant="outline-secondary" onClick={() => set({ line: FIRST_LINE })}>
            Across
          </Button>
          <Button
            size="sm"
            variant="outline-secondary"
            onClick={() => set({ line: { start: { x: 0.5, y: 0 }, end: { x: 0.5, y: 1 } } })}
          >
            Upwards
          </Button>
        </div>
        <p className="quiet-label">Drag the line or its ends on the Plan. Green is what was asked.</p>
      </WorkCard>
      <WorkCard title="Lamp">
        <div className="d-flex flex-wrap gap-2">
          {LAMPS.map(({ name, light }) => (
            <Button key={name} size="sm" variant="outline-secondary" onClick={() => set({ light })}>
              {name}
            </Button>
          ))}
        </div>
      </WorkCard>
      <WorkCard title="Measured">
        {report ? (
          <ReportFacts report={report} />
        ) : (
          <p className="quiet-label">Build the piece at Deliver; what was reached is measured and told here.</p>
        )}
      </WorkCard>
    </>
  );
}
