import { WorkCard } from "../../../ui/WorkCard";
import { ChoiceHint } from "../../common/fields/PartCard";
import { PartField } from "../../common/fields/PartField";
import type { StationProps } from "../../common/stationProps";

/** What is behind the relief. */
export function BackCard({ document, editing }: Pick<StationProps, "document" | "editing">) {
  const work = { document, editing };
  return (
    <WorkCard title="Back">
      <PartField {...work} at="body.back" />
      <PartField {...work} at="body.backing_mm" label={document.body.back === "follow" ? "Thickness" : undefined} />
      <ChoiceHint document={document} at="body.back" />
    </WorkCard>
  );
}
