import { useQuery } from "@tanstack/react-query";
import Dropdown from "react-bootstrap/Dropdown";
import { answered, api, type StepOutcome } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import { usePartSchemas } from "../../state/partSchemas";
import { formatLength } from "../../state/units";
import { WorkCard } from "../../ui/WorkCard";
import { useNewRow } from "../common/fields/newRow";
import { DecorateCards } from "./decorate/DecorateCards";
import type { ModelStationProps } from "../common/stationProps";
import { withStepChanged, withStepMoved } from "./modelSteps";
import { StepRow } from "./StepRow";
import { FloatingMenu } from "../../ui/FloatingMenu";

/** A model from elsewhere, and the steps that mend and change it. It stays untouched; every step can be switched off. */
export function ModelStation({ pieceId, revision, document, editing }: ModelStationProps) {
  const unit = useBenchStore((state) => state.unit);
  const { model, steps } = document;
  const outcomes = useQuery({
    queryKey: ["outcomes", pieceId, revision],
    queryFn: () =>
      answered<StepOutcome[]>(api.POST("/api/pieces/{piece_id}/outcomes", { params: { path: { piece_id: pieceId } }, body: { change: {}, longest_px: 720 } })),
    placeholderData: (before) => before,
  }).data;
  const kinds = usePartSchemas().kinds(document, "steps");
  const newStep = useNewRow(document, "steps");
  const size = model.size_mm.map((side) => formatLength(Math.round(side * 1000) / 1000, unit)).join(" × ");
  const keep = (label: string, next: readonly unknown[]) => editing.keep(label, { steps: next });
  return (
    <>
      <DecorateCards pieceId={pieceId} revision={revision} document={document} editing={editing} />
      <WorkCard title="Model">
        <dl className="facts">
          <dt>File</dt>
          <dd className="text-break">{model.name}</dd>
          <dt>Unit</dt>
          <dd>{model.told ? `${model.unit}, from the file or told` : "mm, as the format tells none"}</dd>
          <dt>Size</dt>
          <dd>
            {size} {unit}
          </dd>
          <dt>Triangles</dt>
          <dd>{model.triangles.toLocaleString("en")}</dd>
        </dl>
        <p className="quiet-label">The file stays as it came. Steps work on it in this order.</p>
      </WorkCard>
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
                onClick={() => keep(heading, [...steps, newStep(kind, firstParameters(kind, model.size_mm))])}
              >
                {heading}
              </Dropdown.Item>
            ))}
          </FloatingMenu>
        </Dropdown>
      </WorkCard>
    </>
  );
}

/** Parameters that make sense for the size of this model. */
function firstParameters(kind: string, size: readonly [number, number, number]): Record<string, unknown> {
  if (kind === "remesh") return { voxel_mm: Number((Math.max(...size) / 150).toPrecision(2)) };
  if (kind === "cut") return { axis: "z", at_mm: Number((size[2] / 2).toPrecision(3)) };
  return {};
}
