import { useState } from "react";
import { LengthField } from "../../../ui/LengthField";
import { measureScreen, screenPxPerMm } from "../../../ui/trueSize";
import { WorkCard } from "../../../ui/WorkCard";

const BAR_PX = 240;

/** How large this screen shows things, so that true size is true. */
export function ScreenCard() {
  const [pxPerMm, setPxPerMm] = useState(screenPxPerMm);
  return (
    <WorkCard title="True size on this screen">
      <div className="screen-bar" style={{ width: BAR_PX }} aria-hidden="true" />
      <LengthField
        label="Hold a ruler to the bar; it is"
        value={Math.round((BAR_PX / pxPerMm) * 10) / 10}
        lowest={10}
        highest={500}
        step={0.5}
        onKeep={(mm) => {
          measureScreen(BAR_PX, mm);
          setPxPerMm(screenPxPerMm());
        }}
      />
    </WorkCard>
  );
}
