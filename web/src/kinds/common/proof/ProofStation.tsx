import { useJobs } from "../../../api/pieces";
import { useBenchStore, type Light } from "../../../state/benchStore";
import { builtReport } from "../../../api/built";
import { Button } from "../../../ui/Button";
import { ReportFacts } from "../../../ui/ReportFacts";
import { WorkCard } from "../../../ui/WorkCard";
import type { AnyStationProps } from "../stationProps";
import { LaidCard } from "../printing/LaidCard";
import { LayersCard } from "../printing/LayersCard";
import { ColourCard } from "./ColourCard";
import { MeasureCard } from "./MeasureCard";
import { SectionCard } from "./SectionCard";
import { TurntableCard } from "./TurntableCard";
import { VerdictCard } from "./VerdictCard";
import { WeightCard } from "./WeightCard";
import { useFoundSoFar } from "../../../state/previews";

const LAMPS: { name: string; light: Light }[] = [
  { name: "From the left", light: { fromDeg: 180, aboveDeg: 14 } },
  { name: "From above", light: { fromDeg: 90, aboveDeg: 14 } },
  { name: "From the right", light: { fromDeg: 0, aboveDeg: 14 } },
  { name: "Straight on", light: { fromDeg: 90, aboveDeg: 84 } },
];

/** Look, measure, compare. */
export function ProofStation(props: AnyStationProps) {
  const { pieceId, revision } = props;
  const set = useBenchStore((state) => state.set);
  const foreseen = useFoundSoFar();
  const report = builtReport(useJobs(pieceId).data, revision);
  return (
    <>
      <VerdictCard findings={report?.findings ?? foreseen} built={report !== undefined} />
      {!props.document.carving.on && (
        <>
          <LayersCard {...props} />
          <LaidCard {...props} />
        </>
      )}
      <ColourCard />
      <SectionCard />
      <MeasureCard />
      <WorkCard title="Lamp">
        <div className="d-flex flex-wrap gap-2">
          {LAMPS.map(({ name, light }) => (
            <Button key={name} size="sm" variant="outline-secondary" onClick={() => set({ light })}>
              {name}
            </Button>
          ))}
        </div>
      </WorkCard>
      <TurntableCard pieceId={pieceId} revision={revision} />
      <WeightCard {...props} report={report} />
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
