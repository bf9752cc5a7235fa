import type { BuildReport } from "../../../api/client";
import { WorkCard } from "../../../ui/WorkCard";
import { PartField } from "../fields/PartField";
import type { AnyStationProps } from "../stationProps";

type Props = Pick<AnyStationProps, "document" | "editing"> & { report: BuildReport | undefined };

/** Weight and what the material costs, solid through and through. */
export function WeightCard({ document, editing, report }: Props) {
  const { material } = document.maker;
  const grams = report ? (report.volume_mm3 / 1000) * material.density_g_cm3 : null;
  const work = { document, editing };
  return (
    <WorkCard title="Weight and cost">
      <div className="field-pairs">
        <PartField {...work} at="maker.material.density_g_cm3" />
        <PartField {...work} at="maker.material.price_per_kg" />
      </div>
      {grams === null ? (
        <p className="quiet-label">Told once the piece is built.</p>
      ) : (
        <dl className="facts" data-testid="weight">
          <dt>Weight, solid</dt>
          <dd>{grams < 100 ? grams.toFixed(1) : Math.round(grams)} g</dd>
          <dt>Material</dt>
          <dd>{((grams / 1000) * material.price_per_kg).toFixed(2)}</dd>
        </dl>
      )}
    </WorkCard>
  );
}
