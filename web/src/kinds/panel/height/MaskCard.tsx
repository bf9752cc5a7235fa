import { Button } from "../../../ui/Button";
import { FilePick } from "../../../ui/FilePick";
import { PartCard } from "../../common/fields/PartCard";
import { PartField } from "../../common/fields/PartField";
import type { StationProps } from "../../common/stationProps";

/** A second picture that scales the height. */
export function MaskCard({ document, editing }: Pick<StationProps, "document" | "editing">) {
  const { mask } = document.height;
  return (
    <PartCard document={document} editing={editing} at="height.mask">
      <FilePick
        label="A picture whose white keeps the height and whose black takes it away"
        name={mask.blob ? mask.name : undefined}
        onKept={({ blob, name }) => editing.keep(`Height mask ${name}`, { height: { mask: { blob, name } } })}
      />
      {mask.blob && (
        <div className="d-flex justify-content-between align-items-center">
          <PartField document={document} editing={editing} at="height.mask.invert" />
          <Button size="sm" variant="outline-secondary" onClick={() => editing.keep("No height mask", { height: { mask: { blob: null, name: null } } })}>
            Take away
          </Button>
        </div>
      )}
    </PartCard>
  );
}
