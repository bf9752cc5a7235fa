import { useBenchStore } from "../../state/benchStore";
import { lengthWithUnit } from "../../state/units";
import { sampleAt } from "../spot";
import { useLook, usePlan } from "../../state/previews";

/** What lies under the shared cursor; `levels` is how many tones the source can hold, null where there is no picture. */
export function Readout({ levels }: { levels: number | null }) {
  const plan = usePlan();
  const cursor = useBenchStore((state) => state.cursor);
  const atPicture = useBenchStore((state) => state.station === "picture");
  const unit = useBenchStore((state) => state.unit);
  const lit = useLook().transmission !== null;
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
      {levels !== null && (
        <span>
          tone <b>{(sample.tone * 100).toFixed(1)} %</b>
        </span>
      )}
      {levels !== null && atPicture && (
        <span>
          level{" "}
          <b>
            {Math.round(sample.tone * (levels - 1)).toLocaleString("en")} of {(levels - 1).toLocaleString("en")}
          </b>
        </span>
      )}
      <span>
        {lit ? "wall" : "height"} <b>{blank ? "blank" : lengthWithUnit(sample.height, unit)}</b>
      </span>
      {levels !== null && (
        <span>
          thickness <b>{blank ? "none" : lengthWithUnit(sample.height + plan.head.backing_mm, unit)}</b>
        </span>
      )}
    </span>
  );
}
