import { WorkCard } from "../../../ui/WorkCard";
import { BoundChoice, BoundLength } from "../../common/bound";
import type { StationProps } from "../../common/stationProps";

const BACKS = [
  { value: "flat", label: "Flat" },
  { value: "follow", label: "Follows" },
  { value: "none", label: "None" },
] as const;
const WORDS = {
  flat: "Solid down to a flat back.",
  follow: "The back runs along the relief, as thick everywhere as asked: light, and quick to cast.",
  none: "The surface alone. It can be carved or joined to a model; a printer needs a back.",
} as const;

/** What is behind the relief. */
export function BackCard({ document, editing }: Pick<StationProps, "document" | "editing">) {
  const { body } = document;
  return (
    <WorkCard title="Back">
      <BoundChoice label="The back is" editing={editing} at="body.back" value={body.back} options={BACKS} />
      {body.back !== "none" && (
        <BoundLength
          label={body.back === "follow" ? "Thickness" : "Backing"}
          editing={editing}
          at="body.backing_mm"
          value={body.backing_mm}
          lowest={0.1}
          highest={100}
          slider={{ from: 0.4, to: 10 }}
          step={0.1}
        />
      )}
      <p className="quiet-label">{WORDS[body.back]}</p>
    </WorkCard>
  );
}
