import { WorkCard } from "../../ui/WorkCard";
import type { Editing } from "../../state/useEditing";
import { BoundLength } from "./bound";

interface Props {
  label: string;
  toleranceMm: number;
  editing: Editing;
  words: string;
}

/** How true the piece is to be. */
export function FinishCard({ label, toleranceMm, editing, words }: Props) {
  return (
    <WorkCard title="Finish">
      <BoundLength
        label={label}
        editing={editing}
        at="finish.tolerance_mm"
        value={toleranceMm}
        lowest={0.001}
        highest={1}
        slider={{ from: 0.005, to: 0.2 }}
        step={0.005}
      />
      <p className="quiet-label">{words}</p>
    </WorkCard>
  );
}
