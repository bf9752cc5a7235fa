import { useFewColours } from "../../api/filaments";
import { PartCard } from "../common/fields/PartCard";
import { PartFields } from "../common/fields/PartField";
import type { FigureStationProps } from "../common/stationProps";
import { FilamentPicker } from "./FilamentPicker";

/** As many colours as there are spools: which, before and after, and what printing them takes. */
export function FewColoursCard({ pieceId, revision, document, editing }: FigureStationProps) {
  const work = { document, editing, at: "figure.few" };
  return (
    <PartCard {...work} hint="off">
      <PartFields {...work} />
      {document.figure.few.of === "filaments" && <FilamentPicker document={document} editing={editing} />}
      <BeforeAndAfter pieceId={pieceId} revision={revision} />
    </PartCard>
  );
}

function BeforeAndAfter({ pieceId, revision }: Pick<FigureStationProps, "pieceId" | "revision">) {
  const { data: facts, isFetching } = useFewColours(pieceId, revision);
  if (!facts) return null;
  const { report } = facts;
  const whole = report.tints.reduce((sum, tint) => sum + tint.area_mm2, 0);
  return (
    <div className="few-colours" aria-busy={isFetching}>
      <div className="side-by-side">
        <figure>
          <img src={facts.before} alt="The figure from the front in all its colours" />
          <figcaption>Before</figcaption>
        </figure>
        <figure>
          <img src={facts.after} alt="The figure from the front in few colours" />
          <figcaption>After</figcaption>
        </figure>
      </div>
      <ul className="tints" aria-label="Colours of the figure">
        {report.tints.map((tint) => (
          <li key={tint.colour}>
            <i style={{ background: tint.colour }} aria-hidden="true" />
            {tint.name}
            <span className="quiet-label">{((100 * tint.area_mm2) / whole).toFixed(1)} %</span>
          </li>
        ))}
      </ul>
      <p className="quiet-label" data-testid="colour-changes">
        {`About ${report.swaps.toLocaleString("en")} changes of colour over ${report.layers.toLocaleString("en")} layers, ` +
          `${(report.purged_mm3 / 1000).toFixed(1)} cm³ purged. Smallest of ${report.patches} patches: ` +
          `${report.smallest_patch_mm2.toFixed(1)} mm².`}
      </p>
    </div>
  );
}
