import { Button } from "../../ui/Button";
import { FilePick } from "../../ui/FilePick";
import { WorkCard } from "../../ui/WorkCard";
import { ChoiceHint } from "../common/fields/PartCard";
import { PartField } from "../common/fields/PartField";
import type { FigureStationProps } from "../common/stationProps";

/** Where depth comes from, and how thick the figure is. */
export function DepthCard({ document, editing }: Pick<FigureStationProps, "document" | "editing">) {
  const { depth } = document.figure;
  const work = { document, editing };
  return (
    <WorkCard title="Depth">
      {depth.blob ? <PartField {...work} at="figure.depth.kind" /> : <p className="quiet-label">It swells from its outline.</p>}
      <FilePick
        label="A picture of depths for the front, as large as this one"
        name={depth.blob ? depth.name : undefined}
        onKept={({ blob, name }) => editing.keep(`Depth picture ${name}`, { figure: { depth: { kind: "picture", blob, name } } })}
      />
      {depth.blob && (
        <>
          <PartField {...work} at="figure.depth.near" />
          <PartField {...work} at="figure.depth.span_mm" />
          <Button size="sm" variant="outline-secondary" onClick={() => editing.keep("No depth picture", { figure: { depth: { kind: "swell", blob: null, name: null } } })}>
            Take away
          </Button>
        </>
      )}
      <PartField {...work} at="figure.depth.profile" />
      <ChoiceHint document={document} at="figure.depth.profile" />
      {["rim_mm", "by", "roundness", "thickness_mm"].map((name) => (
        <PartField key={name} {...work} at={`figure.depth.${name}`} />
      ))}
    </WorkCard>
  );
}
