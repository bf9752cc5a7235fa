import { WorkCard } from "../../../ui/WorkCard";
import { PartField, type Work } from "./PartField";

interface Props extends Work {
  label?: string;
  words: string;
  /** Whether it can be held between samples, too. */
  between?: boolean;
}

/** How true the piece is to be. */
export function FinishCard({ label, words, between = false, ...work }: Props) {
  return (
    <WorkCard title="Finish">
      <PartField {...work} at="finish.tolerance_mm" label={label} />
      {between && <PartField {...work} at="finish.between" />}
      <p className="quiet-label">{words}</p>
    </WorkCard>
  );
}
