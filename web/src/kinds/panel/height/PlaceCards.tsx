import Form from "react-bootstrap/Form";
import { Button } from "../../../ui/Button";
import { FilePick } from "../../../ui/FilePick";
import { WorkCard } from "../../../ui/WorkCard";
import { BoundNumber, switchAt } from "../../common/bound";
import { patchAt } from "../../common/patchAt";
import type { StationProps } from "../../common/stationProps";

type Props = Pick<StationProps, "document" | "editing">;

/** Tones that become blank and are cut through. */
export function CutCard({ document, editing }: Props) {
  const { cut } = document.height;
  return (
    <WorkCard title="Cut through dark" on={cut.on} onSwitch={switchAt(editing, "Cut through dark", "height.cut.on")}>
      {cut.on && (
        <BoundNumber
          label="Darker than"
          editing={editing}
          at="height.cut.tone"
          value={cut.tone}
          share
          unit=""
          lowest={0.001}
          highest={0.999}
          slider={{ from: 0.001, to: 0.999 }}
          step={0.005}
        />
      )}
      <p className="quiet-label">What is darker becomes a hole, cut along a curve.</p>
    </WorkCard>
  );
}

/** A second picture that scales the height. */
export function MaskCard({ document, editing }: Props) {
  const { mask } = document.height;
  return (
    <WorkCard title="Height mask" on={mask.on} onSwitch={switchAt(editing, "Height mask", "height.mask.on")}>
      <FilePick
        label="A picture whose white keeps the height and whose black takes it away"
        name={mask.blob ? mask.name : undefined}
        onKept={({ blob, name }) => editing.keep(`Height mask ${name}`, { height: { mask: { blob, name } } })}
      />
      {mask.blob && (
        <div className="d-flex justify-content-between align-items-center">
          <Form.Check
            id="mask-invert"
            type="switch"
            label="Turned round"
            checked={mask.invert}
            onChange={(event) => editing.keep("Height mask turned round", patchAt("height.mask.invert", event.currentTarget.checked))}
          />
          <Button size="sm" variant="outline-secondary" onClick={() => editing.keep("No height mask", { height: { mask: { blob: null, name: null } } })}>
            Take away
          </Button>
        </div>
      )}
    </WorkCard>
  );
}
