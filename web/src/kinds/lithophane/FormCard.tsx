import Form from "react-bootstrap/Form";
import { useBenchStore } from "../../state/benchStore";
import { LengthField } from "../../ui/LengthField";
import { lengthWithUnit } from "../../state/units";
import { WorkCard } from "../../ui/WorkCard";
import { BoundChoice, BoundLength, BoundNumber, switchAt } from "../common/bound";
import type { LithophaneStationProps } from "../common/stationProps";
import { acrossToRound, FORMS, formPatch, roundToAcross, SHEET_WIDE, type FormKind } from "./forms";
import { usePlanSide } from "../../state/previews";

const BY = [
  { value: "angle", label: "Angle" },
  { value: "radius", label: "Radius" },
] as const;
const SIDES = [
  { value: "outside", label: "Outside" },
  { value: "inside", label: "Inside" },
] as const;

/** What the sheet is bent over. */
export function FormCard({ document, editing }: LithophaneStationProps) {
  const { form } = document;
  const unit = useBenchStore((state) => state.unit);
  const sheet = usePlanSide().finishedMm;
  const length = (label: string, at: keyof typeof form, from: number, to: number, lowest = 2, highest = 1000) => (
    <BoundLength
      label={label}
      editing={editing}
      at={`form.${at}`}
      value={form[at] as number}
      lowest={lowest}
      highest={highest}
      slider={{ from, to }}
      step={1}
    />
  );
  const round = form.kind !== "flat" && form.kind !== "arc";
  return (
    <WorkCard title="Form">
      <Form.Select
        size="sm"
        aria-label="Form"
        value={form.kind}
        onChange={(event) => {
          const kind = event.currentTarget.value as FormKind;
          editing.keep(`Form: ${FORMS[kind].toLowerCase()}`, { form: formPatch(form, kind) });
        }}
      >
        {Object.entries(FORMS).map(([kind, name]) => (
          <option key={kind} value={kind}>
            {name}
          </option>
        ))}
      </Form.Select>
      {form.kind === "cylinder" && (
        <LengthField
          label="Diameter"
          value={roundToAcross(form.width_mm)}
          lowest={2}
          highest={900}
          slider={{ from: 30, to: 200 }}
          step={1}
          onDrag={(across) => editing.drag({ form: { width_mm: acrossToRound(across) } })}
          onKeep={(across) => editing.keep(`Diameter ${across} mm`, { form: { width_mm: acrossToRound(across) } })}
        />
      )}
      {SHEET_WIDE.includes(form.kind) && length(round ? "Once round" : "Width", "width_mm", 40, round ? 600 : 300, 5, 3000)}
      {form.kind === "arc" && (
        <>
          <BoundChoice label="How far it bends" editing={editing} at="form.arc_by" value={form.arc_by} options={BY} />
          {form.arc_by === "angle" ? (
            <BoundNumber
              label="Angle"
              editing={editing}
              at="form.angle_deg"
              value={form.angle_deg}
              unit="°"
              lowest={5}
              highest={350}
              slider={{ from: 5, to: 350 }}
              step={1}
            />
          ) : (
            length("Radius", "radius_mm", 20, 200, 2, 5000)
          )}
        </>
      )}
      {form.kind === "prism" && (
        <BoundNumber
          label="Panels"
          editing={editing}
          at="form.sides"
          value={form.sides}
          unit=""
          whole
          lowest={3}
          highest={24}
          slider={{ from: 3, to: 12 }}
          step={1}
        />
      )}
      {form.kind === "cone" && (
        <>
          {length("Width on top", "top_mm", 20, 200)}
          {length("Width below", "bottom_mm", 20, 250)}
          {length("Height", "rise_mm", 20, 250)}
        </>
      )}
      {(form.kind === "sphere" || form.kind === "dome") && (
        <>
          {length("Diameter", "diameter_mm", 30, 200)}
          {form.kind === "sphere" && length("Opening below", "opening_mm", 5, 80, 0)}
          <Form.Check
            type="switch"
            id="form-open-top"
            label="Open on top"
            checked={form.open_top}
            onChange={(event) => switchAt(editing, "Open on top", "form.open_top")(event.currentTarget.checked)}
          />
          {form.open_top && length("Opening on top", "top_opening_mm", 5, 80, 0.5)}
        </>
      )}
      {form.kind !== "flat" && (
        <BoundChoice label="Relief on which side?" editing={editing} at="form.relief" value={form.relief} options={SIDES} />
      )}
      {round && length("Ease the ends together over", "seam_mm", 0, 40, 0, 200)}
      {sheet && (
        <dl className="facts">
          <dt>Sheet, laid flat</dt>
          <dd data-testid="sheet-size">
            {lengthWithUnit(sheet[0], unit)} × {lengthWithUnit(sheet[1], unit)}
          </dd>
        </dl>
      )}
      <p className="quiet-label">{WORDS[form.kind]}</p>
    </WorkCard>
  );
}

const WORDS: Record<FormKind, string> = {
  flat: "It is printed standing or lying, and lit from its smooth back.",
  arc: "The picture keeps its width along the bend.",
  cylinder: "The picture goes once round; its ends meet at the back.",
  prism: "The picture goes once round over flat panels, mitred where they meet.",
  cone: "Shapes keep their angles; half-way up they are true in size.",
  sphere: "Shapes keep their angles; at the equator they are true in size.",
  dome: "Shapes keep their angles; at the lower edge they are true in size.",
  heart: "The picture goes once round, its middle at the tip in front.",
};
