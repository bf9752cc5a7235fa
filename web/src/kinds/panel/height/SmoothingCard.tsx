import { WorkCard } from "../../../ui/WorkCard";
import { PartField } from "../../common/fields/PartField";
import { patchAt } from "../../common/fields/patchAt";
import type { StationProps } from "../../common/stationProps";

/** Smoothing that can keep edges. */
export function SmoothingCard({ document, editing }: Pick<StationProps, "document" | "editing">) {
  const { rule, smooth_mm, smooth_on } = document.height;
  const work = { document, editing };
  return (
    <WorkCard title="Smoothing" on={smooth_on} onSwitch={(on) => editing.keep(`Smoothing ${on ? "on" : "off"}`, patchAt("height.smooth_on", on))}>
      <PartField {...work} at="height.smooth_mm" />
      {smooth_mm > 0 && rule.kind === "steps" && <p className="quiet-label">Terraces stay level; their outlines are smoothed.</p>}
      {smooth_mm > 0 && rule.kind !== "steps" && (
        <>
          <PartField {...work} at="height.smooth_keep_mm" />
          <PartField {...work} at="height.smooth_where" />
        </>
      )}
    </WorkCard>
  );
}
