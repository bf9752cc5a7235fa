import { WorkCard } from "../../../ui/WorkCard";
import { BoundChoice, BoundLength, switchAt } from "../../common/bound";
import type { StationProps } from "../../common/stationProps";

const PROFILES = [
  { value: "flat", label: "Flat" },
  { value: "bevel", label: "Bevel" },
  { value: "round", label: "Round" },
  { value: "cove", label: "Cove" },
] as const;

/** A rim on the outermost part of the piece. */
export function FrameCard({ document, editing }: Pick<StationProps, "document" | "editing">) {
  const { frame } = document.body;
  return (
    <WorkCard title="Frame" on={frame.on} onSwitch={switchAt(editing, "Frame", "body.frame.on")}>
      {frame.on && (
        <>
          <BoundLength
            label="Frame width"
            editing={editing}
            at="body.frame.width_mm"
            value={frame.width_mm}
            lowest={0.1}
            highest={500}
            slider={{ from: 0.5, to: 20 }}
            step={0.5}
          />
          <BoundLength
            label="Over the backing"
            editing={editing}
            at="body.frame.height_mm"
            value={frame.height_mm}
            lowest={0.05}
            highest={200}
            slider={{ from: 0.2, to: 15 }}
            step={0.1}
          />
          <BoundChoice label="Profile" editing={editing} at="body.frame.profile" value={frame.profile} options={PROFILES} />
        </>
      )}
      <p className="quiet-label">It lies on the outermost part of the piece; the width stays what was asked.</p>
    </WorkCard>
  );
}
