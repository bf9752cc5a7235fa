import { useBenchStore } from "../../bench/benchStore";
import { LengthField } from "../../ui/LengthField";
import { lengthWithUnit } from "../../ui/units";
import { WorkCard } from "../../ui/WorkCard";
import type { StationProps } from "../stationProps";

/** What the object is and how large. */
export function BodyStation({ document, editing }: StationProps) {
  const unit = useBenchStore((state) => state.unit);
  const { body, finish, picture, height } = document;
  const aspect = (picture.height_px - 1) / Math.max(1, picture.width_px - 1);
  const width = (width_mm: number) => ({ body: { width_mm } });
  const backing = (backing_mm: number) => ({ body: { backing_mm } });
  const tolerance = (tolerance_mm: number) => ({ finish: { tolerance_mm } });
  return (
    <>
      <WorkCard title="Relief panel">
        <LengthField
          label="Width"
          value={body.width_mm}
          lowest={1}
          highest={3000}
          slider={{ from: 20, to: 300 }}
          step={1}
          onDrag={(value) => editing.drag(width(value))}
          onKeep={(value) => editing.keep(`Width ${value} mm`, width(value))}
        />
        <LengthField
          label="Backing"
          value={body.backing_mm}
          lowest={0.1}
          highest={100}
          slider={{ from: 0.4, to: 10 }}
          step={0.1}
          onDrag={(value) => editing.drag(backing(value))}
          onKeep={(value) => editing.keep(`Backing ${value} mm`, backing(value))}
        />
        <dl className="facts">
          <dt>Height, from the picture</dt>
          <dd data-testid="body-height">{lengthWithUnit(body.width_mm * aspect, unit)}</dd>
          <dt>Thickest it can be</dt>
          <dd>{lengthWithUnit(body.backing_mm + height.rule.relief_mm, unit)}</dd>
        </dl>
      </WorkCard>
      <WorkCard title="Finish">
        <LengthField
          label="Surface may be off by"
          value={finish.tolerance_mm}
          lowest={0.001}
          highest={1}
          slider={{ from: 0.005, to: 0.2 }}
          step={0.005}
          onKeep={(value) => editing.keep(`Tolerance ${value} mm`, tolerance(value))}
        />
        <p className="quiet-label">Smaller is truer and heavier. What was really reached is told after the build.</p>
      </WorkCard>
    </>
  );
}
