import { Choice } from "../../ui/Choice";
import { LengthField } from "../../ui/LengthField";
import { WorkCard } from "../../ui/WorkCard";
import type { StationProps } from "../stationProps";

const TALL = [
  { value: "bright", label: "Bright" },
  { value: "dark", label: "Dark" },
] as const;

/** Which tone stands how tall. */
export function HeightStation({ document, editing }: StationProps) {
  const { rule, smooth_mm, smooth_on } = document.height;
  const relief = (relief_mm: number) => ({ height: { rule: { relief_mm } } });
  const smooth = (value: number) => ({ height: { smooth_mm: value } });
  return (
    <>
      <WorkCard title="Tone to height">
        <div>
          <div className="mb-1">Which tones stand tall?</div>
          <Choice
            label="Which tones stand tall?"
            value={rule.tall}
            options={TALL}
            onChange={(tall) => editing.keep(tall === "bright" ? "Bright stands tall" : "Dark stands tall", { height: { rule: { tall } } })}
          />
        </div>
        <LengthField
          label="Relief height"
          value={rule.relief_mm}
          lowest={0.05}
          highest={200}
          slider={{ from: 0.2, to: 15 }}
          step={0.1}
          onDrag={(value) => editing.drag(relief(value))}
          onKeep={(value) => editing.keep(`Relief height ${value} mm`, relief(value))}
        />
        <p className="quiet-label">From black to white. A picture that uses fewer tones stays below it.</p>
      </WorkCard>
      <WorkCard
        title="Smoothing"
        on={smooth_on}
        onSwitch={(on) => editing.keep(on ? "Smoothing on" : "Smoothing off", { height: { smooth_on: on } })}
      >
        <LengthField
          label="Radius"
          value={smooth_mm}
          lowest={0}
          highest={20}
          slider={{ from: 0, to: 2 }}
          step={0.02}
          onDrag={(value) => editing.drag(smooth(value))}
          onKeep={(value) => editing.keep(`Smoothing ${value} mm`, smooth(value))}
        />
      </WorkCard>
    </>
  );
}
