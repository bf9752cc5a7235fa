import { WorkCard } from "../../../ui/WorkCard";
import { ChoiceHint } from "../../common/fields/PartCard";
import { PartField, PartFields } from "../../common/fields/PartField";
import type { StationProps } from "../../common/stationProps";

/** What heights follow: tones, depth, or both. */
export function FollowField({ document, editing }: Pick<StationProps, "document" | "editing">) {
  const work = { document, editing };
  return (
    <>
      <PartField {...work} at="height.form.of" label="Heights follow" />
      {document.height.form.of !== "tones" && <ChoiceHint document={document} at="height.form.of" />}
    </>
  );
}

/** How a depth comes into the shallow relief. */
export function ShallowCard({ document, editing }: StationProps) {
  const work = { document, editing };
  return (
    <WorkCard title="Depth to height">
      <FollowField {...work} />
      {["relief_mm", "strength", "step_mm", "ground", "cells"].map((name) => (
        <PartField key={name} {...work} at={`height.form.${name}`} />
      ))}
      <p className="quiet-label">What is nearer stays higher where it hides what is behind it.</p>
    </WorkCard>
  );
}

/** Fine form from tones on the large form. */
export function FineCard({ document, editing }: StationProps) {
  return (
    <WorkCard title="Fine form from tones">
      <PartFields document={document} editing={editing} at="height.form.fine" />
    </WorkCard>
  );
}
