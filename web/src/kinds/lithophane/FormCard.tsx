import Form from "react-bootstrap/Form";
import { useBenchStore } from "../../state/benchStore";
import { usePartSchemas } from "../../state/partSchemas";
import { usePlanSide } from "../../state/previews";
import { lengthWithUnit } from "../../state/units";
import { LengthField } from "../../ui/LengthField";
import { WorkCard } from "../../ui/WorkCard";
import { ChoiceHint } from "../common/fields/PartCard";
import { PartFields } from "../common/fields/PartField";
import type { LithophaneStationProps } from "../common/stationProps";
import { acrossToRound, formPatch, isRound, roundToAcross, type FormKind } from "./forms";

/** What the sheet is bent over. */
export function FormCard({ document, editing }: LithophaneStationProps) {
  const { form } = document;
  const schemas = usePartSchemas();
  const { choices } = schemas.field(document, "form.kind");
  const unit = useBenchStore((state) => state.unit);
  const sheet = usePlanSide().finishedMm;
  const round = isRound(form.kind);
  return (
    <WorkCard title="Form">
      <Form.Select
        size="sm"
        aria-label="Form"
        value={form.kind}
        onChange={(event) => {
          const kind = event.currentTarget.value as FormKind;
          editing.keep(`Form: ${choices[kind]?.toLowerCase()}`, { form: formPatch(form, kind) });
        }}
      >
        {Object.entries(choices).map(([kind, name]) => (
          <option key={kind} value={kind}>
            {name}
          </option>
        ))}
      </Form.Select>
      {form.kind === "cylinder" && <Diameter document={document} editing={editing} />}
      <PartFields document={document} editing={editing} at="form" without={["kind"]} labels={round ? { width_mm: "Once round" } : undefined} />
      {sheet && (
        <dl className="facts">
          <dt>Sheet, laid flat</dt>
          <dd data-testid="sheet-size">
            {lengthWithUnit(sheet[0], unit)} × {lengthWithUnit(sheet[1], unit)}
          </dd>
        </dl>
      )}
      <ChoiceHint document={document} at="form.kind" />
    </WorkCard>
  );
}

/** How far a cylinder is across: its width the other way round. */
function Diameter({ document, editing }: Pick<LithophaneStationProps, "document" | "editing">) {
  const round = usePartSchemas().field(document, "form.width_mm");
  const across = roundToAcross(document.form.width_mm);
  return (
    <LengthField
      label="Diameter"
      value={across}
      lowest={roundToAcross(round.lowest ?? 0)}
      highest={roundToAcross(round.highest ?? across)}
      slider={{ from: 30, to: 200 }}
      step={1}
      onDrag={(next) => editing.drag({ form: { width_mm: acrossToRound(next) } })}
      onKeep={(next) => editing.keep(`Diameter ${next} mm`, { form: { width_mm: acrossToRound(next) } })}
    />
  );
}
