import { useBenchStore } from "../../bench/benchStore";
import { lengthWithUnit } from "../../ui/units";
import { sampleAt } from "../spot";

/** What lies under the shared cursor. */
export function Readout() {
  const plan = useBenchStore((state) => state.plan);
  const cursor = useBenchStore((state) => state.cursor);
  const unit = useBenchStore((state) => state.unit);
  const sample = plan && cursor ? sampleAt(plan.grid, plan.head, cursor) : null;
  if (!plan || !cursor || !sample) return <span className="quiet-label">Point at the piece to read it</span>;
  const blank = Number.isNaN(sample.height);
  return (
    <span role="status" data-testid="readout" style={{ display: "flex", gap: "0.9rem" }}>
      <span>
        x <b>{lengthWithUnit(cursor.x, unit)}</b>
      </span>
      <span>
        y <b>{lengthWithUnit(cursor.y, unit)}</b>
      </span>
      <span>
        tone <b>{Math.round(sample.tone * 100)} %</b>
      </span>
      <span>
        height <b>{blank ? "blank" : lengthWithUnit(sample.height, unit)}</b>
      </span>
      <span>
        thickness <b>{blank ? "none" : lengthWithUnit(sample.height + plan.head.backing_mm, unit)}</b>
      </span>
    </span>
  );
}
