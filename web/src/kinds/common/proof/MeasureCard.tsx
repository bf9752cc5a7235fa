import { useEffect } from "react";
import { useBenchStore, type Place } from "../../../state/benchStore";
import { Button } from "../../../ui/Button";
import { lengthWithUnit } from "../../../state/units";
import { WorkCard } from "../../../ui/WorkCard";

/** The distance between two places picked on the model. */
export function MeasureCard() {
  const unit = useBenchStore((state) => state.unit);
  const measuring = useBenchStore((state) => state.measuring);
  const picked = useBenchStore((state) => state.picked);
  const set = useBenchStore((state) => state.set);
  useEffect(() => () => set({ measuring: false, picked: [] }), [set]);
  const [one, two] = picked;
  const told = (mm: number) => lengthWithUnit(Math.round(mm * 1000) / 1000, unit);
  return (
    <WorkCard title="Measure">
      <Button
        size="sm"
        variant="outline-secondary"
        aria-pressed={measuring}
        onClick={() => set({ measuring: !measuring, picked: [] })}
      >
        <i className="bi bi-rulers me-2" aria-hidden="true" />
        {measuring ? "Stop measuring" : "Pick two places on the model"}
      </Button>
      {one && two ? (
        <dl className="facts" data-testid="measured">
          <dt>Apart</dt>
          <dd>{told(Math.hypot(...difference(one, two)))}</dd>
          <dt>Across, upwards, in height</dt>
          <dd>
            {difference(one, two)
              .map((part) => told(Math.abs(part)))
              .join(", ")}
          </dd>
        </dl>
      ) : (
        measuring && <p className="quiet-label">{one ? "Now the second place." : "Press on the first place."}</p>
      )}
    </WorkCard>
  );
}

function difference(one: Place, two: Place): [number, number, number] {
  return [two[0] - one[0], two[1] - one[1], two[2] - one[2]];
}
