import { WorkCard } from "../../../ui/WorkCard";
import { PartField, type Work } from "./PartField";

interface Props extends Work {
  label?: string;
  words: string;
}

/** How true the piece is to be. */
export function FinishCard({ label, words, ...work }: Props) {
  return (
    <WorkCard title="Finish">
      <PartField {...work} at="finish.tolerance_mm" label={label} />
      <p className="quiet-label">{words}</p>
    </WorkCard>
  );
}
