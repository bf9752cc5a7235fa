import { useBenchStore } from "../../../state/benchStore";
import { Button } from "../../../ui/Button";
import { LengthField } from "../../../ui/LengthField";
import { NumberField } from "../../../ui/NumberField";
import { lengthWithUnit } from "../../../state/units";
import { WorkCard } from "../../../ui/WorkCard";
import { FIRST_LINE, lineInMm, lineLength } from "../../../views/spot";
import { usePlan } from "../../../state/previews";

/** Where the section runs, and how far its plane leans. */
export function SectionCard() {
  const unit = useBenchStore((state) => state.unit);
  const plan = usePlan();
  const share = useBenchStore((state) => state.line) ?? FIRST_LINE;
  const tiltDeg = useBenchStore((state) => state.tiltDeg);
  const liftMm = useBenchStore((state) => state.liftMm);
  const set = useBenchStore((state) => state.set);
  const line = plan ? lineInMm(share, plan.head.size_mm) : null;
  const thick = plan?.head.size_mm[2] ?? 1;
  return (
    <WorkCard title="Section">
      {line && (
        <dl className="facts">
          <dt>Length</dt>
          <dd>{lengthWithUnit(lineLength(line), unit)}</dd>
          <dt>From</dt>
          <dd>
            {lengthWithUnit(line.start.x, unit)}, {lengthWithUnit(line.start.y, unit)}
          </dd>
          <dt>To</dt>
          <dd>
            {lengthWithUnit(line.end.x, unit)}, {lengthWithUnit(line.end.y, unit)}
          </dd>
        </dl>
      )}
      <div className="d-flex gap-2">
        <Button size="sm" variant="outline-secondary" onClick={() => set({ line: FIRST_LINE, tiltDeg: 0 })}>
          Across
        </Button>
        <Button
          size="sm"
          variant="outline-secondary"
          onClick={() => set({ line: { start: { x: 0.5, y: 0 }, end: { x: 0.5, y: 1 } }, tiltDeg: 0 })}
        >
          Upwards
        </Button>
        <Button size="sm" variant="outline-secondary" onClick={() => set({ tiltDeg: 90, liftMm: Math.round(thick * 50) / 100 })}>
          Level
        </Button>
      </div>
      <NumberField
        label="Lean of the plane"
        unit="°"
        value={tiltDeg}
        lowest={-90}
        highest={90}
        slider={{ from: -90, to: 90 }}
        step={1}
        onDrag={(value) => set({ tiltDeg: value })}
        onKeep={(value) => set({ tiltDeg: value })}
      />
      {tiltDeg !== 0 && (
        <LengthField
          label="Height of its line"
          value={liftMm}
          lowest={0}
          highest={3000}
          slider={{ from: 0, to: thick }}
          step={Math.max(0.01, Math.round(thick) / 100)}
          onDrag={(value) => set({ liftMm: value })}
          onKeep={(value) => set({ liftMm: value })}
        />
      )}
      <p className="quiet-label">Drag the line or its ends on the Plan. Green is what was asked, shown while the plane is upright.</p>
    </WorkCard>
  );
}
