import type { BuildReport } from "../../../api/client";
import { useBenchStore } from "../../../state/benchStore";
import { Button } from "../../../ui/Button";
import { PartCard } from "../fields/PartCard";
import { PartField } from "../fields/PartField";
import type { AnyStationProps } from "../stationProps";
import { TargetsMenu } from "./TargetsMenu";

const MODEL_WORDS = "Borders and sharp edges are kept; a sound solid stays sound. What is lost is measured both ways.";
const PANEL_WORDS = "The piece is built again, only as fine as that allows, and measured against its heights.";

type Props = Pick<AnyStationProps, "document" | "editing"> & { report: BuildReport | undefined; rebuilt: boolean };

/** How light the mesh is made for the next program. */
export function LightCard({ document, editing, report, rebuilt }: Props) {
  const { light } = document;
  const work = { document, editing };
  const beside = useBenchStore((state) => state.beside);
  const set = useBenchStore((state) => state.set);
  return (
    <PartCard {...work} at="light" hint="off">
      <TargetsMenu light={light} editing={editing} />
      {["by", "triangles", "tolerance_mm", "megabytes"].map((name) => (
        <PartField key={name} {...work} at={`light.${name}`} />
      ))}
      {report?.triangles_before && (
        <>
          <dl className="facts" data-testid="lightness">
            <dt>Triangles before</dt>
            <dd>{report.triangles_before.toLocaleString("en")}</dd>
            <dt>and now</dt>
            <dd>{report.triangles.toLocaleString("en")}</dd>
          </dl>
          <Button
            size="sm"
            variant="outline-secondary"
            aria-pressed={beside?.version === "before"}
            onClick={() => set({ beside: beside?.version === "before" ? null : { version: "before", name: "Before" } })}
          >
            {beside?.version === "before" ? "Put it away" : "Before and after, side by side"}
          </Button>
        </>
      )}
      <p className="quiet-label">{rebuilt ? PANEL_WORDS : MODEL_WORDS}</p>
    </PartCard>
  );
}
