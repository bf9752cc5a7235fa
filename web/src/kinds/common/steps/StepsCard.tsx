import { useQuery } from "@tanstack/react-query";
import Dropdown from "react-bootstrap/Dropdown";
import { answered, api, type StepOutcome } from "../../../api/client";
import { usePlanSide } from "../../../state/previews";
import { usePartSchemas } from "../../../state/partSchemas";
import { FloatingMenu } from "../../../ui/FloatingMenu";
import { WorkCard } from "../../../ui/WorkCard";
import { useNewRow } from "../fields/newRow";
import type { WorkedStationProps } from "../stationProps";
import { longestMm } from "../workedSize";
import { PoseButtons } from "./PoseButtons";
import { withStepChanged, withStepMoved } from "./modelSteps";
import { StepRow } from "./StepRow";

/** Steps that mend and change the mesh, one after another; every one can be switched off. */
export function StepsCard({ pieceId, revision, document, editing }: WorkedStationProps) {
  const { steps } = document;
  const outcomes = useQuery({
    queryKey: ["outcomes", pieceId, revision],
    queryFn: () =>
      answered<StepOutcome[]>(api.POST("/api/pieces/{piece_id}/outcomes", { params: { path: { piece_id: pieceId } }, body: { change: {}, longest_px: 720 } })),
    placeholderData: (before) => before,
  }).data;
  const kinds = usePartSchemas().kinds(document, "steps");
  const newStep = useNewRow(document, "steps");
  const finished = usePlanSide().finishedMm;
  const keep = (label: string, next: readonly unknown[]) => editing.keep(label, { steps: next });
  return (
    <WorkCard title="Steps">
      {steps.map((step, at) => (
        <StepRow
          key={step.id}
          pieceId={pieceId}
          revision={revision}
          part={kinds[step.kind]}
          step={step}
          outcome={outcomes?.find((outcome) => outcome.id === step.id)?.description}
          first={at === 0}
          last={at === steps.length - 1}
          onChange={(what, change) => keep(`${kinds[step.kind]?.heading}, ${what}`, withStepChanged(steps, step.id, change))}
          onMove={(by) => keep(`${kinds[step.kind]?.heading} moved`, withStepMoved(steps, step.id, by))}
          onRemove={() => keep(`${kinds[step.kind]?.heading} removed`, steps.filter((other) => other.id !== step.id))}
        />
      ))}
      <PoseButtons onTurn={([x_deg, y_deg, z_deg]) => keep(kinds.turn?.heading ?? "Turned", [...steps, newStep("turn", { way: "typed", x_deg, y_deg, z_deg })])} />
      <Dropdown>
        <Dropdown.Toggle variant="outline-secondary" size="sm" className="w-100">
          <i className="bi bi-plus-lg me-1" aria-hidden="true" />
          Add a step
        </Dropdown.Toggle>
        <FloatingMenu>
          {Object.entries(kinds).map(([kind, { heading, hint }]) => (
            <Dropdown.Item
              key={kind}
              as="button"
              type="button"
              title={hint}
              onClick={() => keep(heading, [...steps, newStep(kind, firstParameters(kind, longestMm(document), document.maker.bed_mm, finished?.[2]))])}
            >
              {heading}
            </Dropdown.Item>
          ))}
        </FloatingMenu>
      </Dropdown>
    </WorkCard>
  );
}

/** Parameters that make sense for a mesh of this size. */
function firstParameters(kind: string, longest: number, bed_mm: readonly number[], tall = longest): Record<string, unknown> {
  if (kind === "remesh") return { voxel_mm: Number((longest / 150).toPrecision(2)) };
  if (kind === "cut") return { axis: "z", at_mm: Number((tall / 2).toPrecision(3)) };
  if (kind === "size") return { axis: "z", size_mm: Number(tall.toPrecision(6)), bed_mm };
  return {};
}
