import type { BuildReport } from "../../../api/client";
import { useBenchStore } from "../../../state/benchStore";
import { Button } from "../../../ui/Button";
import { WorkCard } from "../../../ui/WorkCard";
import { BoundChoice, BoundLength, BoundNumber, switchAt } from "../bound";
import type { AnyStationProps } from "../stationProps";
import { TargetsMenu } from "./TargetsMenu";

const BY = [
  { value: "triangles", label: "Triangles" },
  { value: "tolerance", label: "Deviation" },
  { value: "bytes", label: "File size" },
] as const;

const MODEL_WORDS = "Borders and sharp edges are kept; a sound solid stays sound. What is lost is measured both ways.";
const PANEL_WORDS = "The piece is built again, only as fine as that allows, and measured against its heights.";

type Props = Pick<AnyStationProps, "document" | "editing"> & { report: BuildReport | undefined; rebuilt: boolean };

/** How light the mesh is made for the next program. */
export function LightCard({ document, editing, report, rebuilt }: Props) {
  const { light } = document;
  const beside = useBenchStore((state) => state.beside);
  const set = useBenchStore((state) => state.set);
  return (
    <WorkCard title="Lightness" on={light.on} onSwitch={switchAt(editing, "Lightness", "light.on")}>
      {!light.on && <p className="quiet-label">Switched off: as many triangles as the surface needs.</p>}
      {light.on && (
        <>
          <TargetsMenu light={light} editing={editing} />
          <BoundChoice label="Simplify to" editing={editing} at="light.by" value={light.by} options={BY} />
          {light.by === "triangles" && (
            <BoundNumber
              label="Triangles, about"
              editing={editing}
              at="light.triangles"
              value={light.triangles}
              unit=""
              whole
              lowest={4}
              highest={60_000_000}
              step={1000}
            />
          )}
          {light.by === "tolerance" && (
            <BoundLength
              label="No further off than"
              editing={editing}
              at="light.tolerance_mm"
              value={light.tolerance_mm}
              lowest={0.0001}
              highest={100}
              slider={{ from: 0.005, to: 0.5 }}
              step={0.005}
            />
          )}
          {light.by === "bytes" && (
            <BoundNumber
              label="Megabytes at the most"
              editing={editing}
              at="light.megabytes"
              value={light.megabytes}
              unit=""
              lowest={0.001}
              highest={4000}
              step={1}
            />
          )}
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
        </>
      )}
    </WorkCard>
  );
}
