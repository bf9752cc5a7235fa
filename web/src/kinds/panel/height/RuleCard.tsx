import { useMemo } from "react";
import { CurveGraph } from "../../../ui/CurveGraph";
import { histogram } from "../../../ui/histogram";
import { WorkCard } from "../../../ui/WorkCard";
import { BoundChoice, BoundLength, BoundShare } from "../../common/bound";
import { patchAt } from "../../common/patchAt";
import type { StationProps } from "../../common/stationProps";
import { RuleGraph } from "./RuleGraph";
import { StepTable } from "./StepTable";
import { usePlan } from "../../../state/previews";

const TALL = [
  { value: "bright", label: "Bright" },
  { value: "dark", label: "Dark" },
] as const;
const KINDS = [
  { value: "straight", label: "Even" },
  { value: "curve", label: "Curve" },
  { value: "steps", label: "Steps" },
  { value: "compress", label: "Shallow" },
] as const;
const WORDS = {
  straight: "Height goes evenly with tone, from black to white.",
  curve: "Bend the curve: to the right are brighter tones, upwards is taller.",
  steps: "Every tone goes to the nearest step; terraces are level, their walls upright.",
  compress: "Big differences of height are held back and small detail is kept, so a deep subject fits a shallow relief.",
} as const;

/** Which tone stands how tall. */
export function RuleCard(props: StationProps) {
  const { document, editing } = props;
  const { rule } = document.height;
  const plan = usePlan();
  const counts = useMemo(() => (plan ? histogram(plan.grid) : undefined), [plan]);
  const reads = rule.tall === "dark" ? "of darkness" : "of brightness";
  return (
    <WorkCard title="Tone to height">
      <BoundChoice label="How does height follow tone?" editing={editing} at="height.rule.kind" value={rule.kind} options={KINDS} />
      {rule.kind !== "steps" && (
        <BoundChoice label="Which tones stand tall?" editing={editing} at="height.rule.tall" value={rule.tall} options={TALL} />
      )}
      {rule.kind === "curve" ? (
        <CurveGraph
          label="Height curve"
          points={rule.points as [number, number][]}
          counts={rule.tall === "dark" ? counts?.slice().reverse() : counts}
          tell={(tone, share) => `${Math.round(tone * 100)} % ${reads} stands ${round(share * rule.relief_mm)} mm tall`}
          onDrag={(points) => editing.drag(patchAt("height.rule.points", points))}
          onKeep={(what, points) => editing.keep(`Height curve, ${what}`, patchAt("height.rule.points", points))}
        />
      ) : (
        <RuleGraph rule={rule} counts={counts} />
      )}
      {rule.kind === "steps" ? (
        <StepTable {...props} />
      ) : (
        <BoundLength
          label="Relief height"
          editing={editing}
          at="height.rule.relief_mm"
          value={rule.relief_mm}
          lowest={0.05}
          highest={200}
          slider={{ from: 0.2, to: 15 }}
          step={0.1}
        />
      )}
      {rule.kind === "compress" && (
        <BoundShare
          label="How much is held back"
          editing={editing}
          at="height.rule.strength"
          value={rule.strength}
        />
      )}
      <p className="quiet-label">{WORDS[rule.kind]}</p>
    </WorkCard>
  );
}

function round(mm: number): number {
  return Math.round(mm * 100) / 100;
}
