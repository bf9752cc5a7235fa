import { FilePick } from "../../ui/FilePick";
import { DepthCard } from "../common/depth/DepthCard";
import { PartField } from "../common/fields/PartField";
import { patchAt } from "../common/fields/patchAt";
import type { FigureStationProps } from "../common/stationProps";

/** Where the depth of a figure comes from, and how thick it is. */
export function FigureDepth(props: FigureStationProps) {
  const { document, editing } = props;
  const { depth } = document.figure;
  return (
    <DepthCard
      {...props}
      at="figure"
      cleared={{ behind_blob: null, behind_name: null }}
      besidePicture={
        <FilePick
          label="A picture of depths for the back, as one sees it from there"
          name={depth.behind_blob ? depth.behind_name : undefined}
          onKept={({ blob, name }) => editing.keep(`Depth behind by ${name}`, patchAt("figure.depth", { behind_blob: blob, behind_name: name }))}
        />
      }
    >
      {["by", "roundness", "thickness_mm"].map((name) => (
        <PartField key={name} document={document} editing={editing} at={`figure.depth.${name}`} />
      ))}
    </DepthCard>
  );
}
