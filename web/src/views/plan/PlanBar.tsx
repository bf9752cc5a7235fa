import type { ReactNode } from "react";
import { useBenchStore } from "../../state/benchStore";
import { MM_PER_INCH } from "../../state/units";

const GRIDS = {
  mm: [
    { mm: 1, label: "1 mm" },
    { mm: 5, label: "5 mm" },
    { mm: 10, label: "10 mm" },
  ],
  in: [
    { mm: MM_PER_INCH / 8, label: "1/8 in" },
    { mm: MM_PER_INCH / 4, label: "1/4 in" },
    { mm: MM_PER_INCH, label: "1 in" },
  ],
};

interface Props {
  /** Whether the piece is shown as large as it will be. */
  trueSize: boolean;
  onTrueSize: () => void;
  onFit: () => void;
  /** Whether there is a before to show beside it. */
  comparable: boolean;
}

/** How the Plan is looked at: closeness, grid, before beside after. */
export function PlanBar({ trueSize, onTrueSize, onFit, comparable }: Props) {
  const unit = useBenchStore((state) => state.unit);
  const gridMm = useBenchStore((state) => state.gridMm);
  const divider = useBenchStore((state) => state.divider);
  const set = useBenchStore((state) => state.set);
  return (
    <div className="plan-bar" role="toolbar" aria-label="Plan view">
      <PlanButton onClick={onFit}>Whole</PlanButton>
      <PlanButton pressed={trueSize} onClick={onTrueSize}>
        True size
      </PlanButton>
      <select aria-label="Grid" value={gridMm} onChange={(event) => set({ gridMm: Number(event.currentTarget.value) })}>
        <option value={0}>No grid</option>
        {GRIDS[unit].map(({ mm, label }) => (
          <option key={label} value={mm}>
            Grid {label}
          </option>
        ))}
      </select>
      {comparable && (
        <PlanButton pressed={divider !== null} onClick={() => set({ divider: divider === null ? 0.5 : null })}>
          Before | after
        </PlanButton>
      )}
    </div>
  );
}

function PlanButton({ pressed, onClick, children }: { pressed?: boolean; onClick: () => void; children: ReactNode }) {
  return (
    <button type="button" aria-pressed={pressed} onClick={onClick}>
      {children}
    </button>
  );
}
