import { WorkCard } from "../../../ui/WorkCard";
import { BoundChoice, BoundLength, BoundNumber, switchAt } from "../../common/bound";
import type { StationProps } from "../../common/stationProps";

type Props = Pick<StationProps, "document" | "editing">;

const WHERE = [
  { value: "all", label: "Everywhere" },
  { value: "slopes", label: "Slopes" },
  { value: "terraces", label: "Level parts" },
] as const;

/** Smoothing that can keep edges. */
export function SmoothingCard({ document, editing }: Props) {
  const { rule, smooth_mm, smooth_on, smooth_keep_mm, smooth_where } = document.height;
  return (
    <WorkCard title="Smoothing" on={smooth_on} onSwitch={switchAt(editing, "Smoothing", "height.smooth_on")}>
      <BoundLength
        label="Radius"
        editing={editing}
        at="height.smooth_mm"
        value={smooth_mm}
        lowest={0}
        highest={20}
        slider={{ from: 0, to: 2 }}
        step={0.02}
      />
      {smooth_mm > 0 && rule.kind === "steps" && <p className="quiet-label">Terraces stay level; their outlines are smoothed.</p>}
      {smooth_mm > 0 && rule.kind !== "steps" && (
        <>
          <BoundLength
            label="Keep steps taller than"
            editing={editing}
            at="height.smooth_keep_mm"
            value={smooth_keep_mm}
            lowest={0}
            highest={50}
            slider={{ from: 0, to: 3 }}
            step={0.05}
          />
          <BoundChoice label="Where" editing={editing} at="height.smooth_where" value={smooth_where} options={WHERE} />
        </>
      )}
    </WorkCard>
  );
}

/** How steep walls may be, for moulds and cone-shaped bits. */
export function DraftCard({ document, editing }: Props) {
  const { draft } = document.height;
  return (
    <WorkCard title="Leaning walls" on={draft.on} onSwitch={switchAt(editing, "Leaning walls", "height.draft.on")}>
      {draft.on && (
        <BoundNumber
          label="Every wall leans at least"
          editing={editing}
          at="height.draft.wall_deg"
          value={draft.wall_deg}
          unit="°"
          lowest={0.5}
          highest={80}
          slider={{ from: 1, to: 45 }}
          step={0.5}
        />
      )}
      <p className="quiet-label">So that a mould comes off, and a tapered bit gets in. Material is added at the foot.</p>
    </WorkCard>
  );
}

/** Rounding of upper edges. */
export function RoundingCard({ document, editing }: Props) {
  const { rounding } = document.height;
  return (
    <WorkCard title="Round upper edges" on={rounding.on} onSwitch={switchAt(editing, "Rounding", "height.rounding.on")}>
      {rounding.on && (
        <BoundLength
          label="Edge radius"
          editing={editing}
          at="height.rounding.radius_mm"
          value={rounding.radius_mm}
          lowest={0.01}
          highest={20}
          slider={{ from: 0.05, to: 3 }}
          step={0.05}
        />
      )}
    </WorkCard>
  );
}
