import Form from "react-bootstrap/Form";
import { useBenchStore } from "../../../state/benchStore";
import { lengthWithUnit } from "../../../state/units";
import { WorkCard } from "../../../ui/WorkCard";
import { BoundLength, BoundNumber } from "../../common/bound";
import { patchAt } from "../../common/patchAt";
import type { StationProps } from "../../common/stationProps";
import { usePlanSide } from "../../../state/previews";

const SHAPES = {
  rectangle: "Rectangle",
  rounded: "Rectangle with round corners",
  ellipse: "Ellipse",
  polygon: "Polygon",
  outline: "What the picture shows",
} as const;

/** Size and outline. */
export function PanelCard({ document, editing }: StationProps) {
  const unit = useBenchStore((state) => state.unit);
  const finished = usePlanSide().finishedMm;
  const { body } = document;
  return (
    <WorkCard title="Size and outline">
      <BoundLength
        label="Width"
        editing={editing}
        at="body.width_mm"
        value={body.width_mm}
        lowest={1}
        highest={3000}
        slider={{ from: 20, to: 300 }}
        step={1}
      />
      {finished && (
        <dl className="facts">
          <dt>Height, from the picture</dt>
          <dd data-testid="body-height">{lengthWithUnit(finished[1], unit)}</dd>
          <dt>Thickest it can be</dt>
          <dd>{lengthWithUnit(finished[2], unit)}</dd>
        </dl>
      )}
      <Form.Group controlId="body-shape">
        <Form.Label className="mb-1">Outline</Form.Label>
        <Form.Select
          size="sm"
          value={body.shape}
          onChange={(event) => {
            const shape = event.currentTarget.value as keyof typeof SHAPES;
            editing.keep(`Outline: ${SHAPES[shape].toLowerCase()}`, patchAt("body.shape", shape));
          }}
        >
          {Object.entries(SHAPES).map(([shape, name]) => (
            <option key={shape} value={shape}>
              {name}
            </option>
          ))}
        </Form.Select>
      </Form.Group>
      {body.shape === "rounded" && (
        <BoundLength
          label="Corner radius"
          editing={editing}
          at="body.corner_mm"
          value={body.corner_mm}
          lowest={0.05}
          highest={1500}
          slider={{ from: 0.5, to: 30 }}
          step={0.5}
        />
      )}
      {body.shape === "polygon" && (
        <BoundNumber
          label="Sides"
          editing={editing}
          at="body.sides"
          value={body.sides}
          unit=""
          whole
          lowest={3}
          highest={60}
          slider={{ from: 3, to: 16 }}
          step={1}
        />
      )}
      {body.shape === "outline" && (
        <>
          <BoundLength
            label="Base around it"
            editing={editing}
            at="body.margin_mm"
            value={body.margin_mm}
            lowest={0}
            highest={500}
            slider={{ from: 0, to: 15 }}
            step={0.5}
          />
          <p className="quiet-label">
            The outline follows what is not blank: cut the picture out, or cut through dark tones at Height. It stays inside the
            picture; a blank border there gives it room.
          </p>
        </>
      )}
    </WorkCard>
  );
}
