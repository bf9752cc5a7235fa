import { useMemo } from "react";
import { CurveGraph } from "../../../ui/CurveGraph";
import { histogram } from "../../../ui/histogram";
import { WorkCard } from "../../../ui/WorkCard";
import { ChoiceHint } from "../../common/fields/PartCard";
import { PartField } from "../../common/fields/PartField";
import { patchAt } from "../../common/fields/patchAt";
import type { StationProps } from "../../common/stationProps";
import { FollowField } from "./FormCards";
import { RuleGraph } from "./RuleGraph";
import { StepTable } from "./steps/StepTable";
import { usePlan } from "../../../state/previews";

/** Which tone stands how tall. */
export function RuleCard(props: StationProps) {
  const { document, editing } = props;
  const { rule } = document.height;
  const work = { document, editing };
  const plan = usePlan();
  const counts = useMemo(() => (plan ? histogram(plan.grid) : undefined), [plan]);
  const reads = rule.tall === "dark" ? "of darkness" : "of brightness";
  return (
    <WorkCard title="Tone to height">
      <FollowField {...work} />
      <PartField {...work} at="height.rule.kind" />
      <PartField {...work} at="height.rule.tall" />
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
        rule.kind !== "edge" && <RuleGraph rule={rule} counts={counts} />
      )}
      {rule.kind === "steps" && <StepTable {...props} />}
      <PartField {...work} at="height.rule.relief_mm" />
      {["edge", "roof_deg", "edge_mm", "edge_tones", "strength"].map((name) => (
        <PartField key={name} {...work} at={`height.rule.${name}`} />
      ))}
      <ChoiceHint document={document} at="height.rule.kind" />
    </WorkCard>
  );
}

function round(mm: number): number {
  return Math.round(mm * 100) / 100;
}
