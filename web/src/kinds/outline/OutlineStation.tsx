import Dropdown from "react-bootstrap/Dropdown";
import type { MendStep, OutlinesView } from "../../api/client";
import { usePartSchemas } from "../../state/partSchemas";
import { WorkCard } from "../../ui/WorkCard";
import { useNewRow } from "../common/fields/newRow";
import type { OutlineStationProps } from "../common/stationProps";
import { CurveList } from "./CurveList";
import { DrawingCard } from "./DrawingCard";
import { ADDED_ELSEWHERE, chooses, placesOf, type MendKind } from "./mendKinds";
import { MendRow } from "./MendRow";
import { useOutlineStore } from "../../state/outlineStore";
import { SizeCard } from "./SizeCard";
import { TraceCard } from "./TraceCard";
import { isTraced } from "./traced";
import { FloatingMenu } from "../../ui/FloatingMenu";

interface Props extends OutlineStationProps {
  view: OutlinesView | undefined;
}

/** Where the outlines come from, how large they are, and how they are mended. */
export function OutlineStation({ document, editing, view }: Props) {
  const chosen = useOutlineStore((state) => state.chosen);
  const steps: readonly MendStep[] = document.mend;
  const keep = (label: string, next: readonly unknown[]) => editing.keep(label, { mend: next });
  const kinds = usePartSchemas().kinds(document, "mend");
  const newMend = useNewRow(document, "mend");
  const add = (kind: MendKind, parameters: Record<string, unknown> = {}) => keep(kinds[kind]?.heading ?? kind, [...steps, newMend(kind, parameters)]);
  return (
    <>
      {isTraced(document) ? <TraceCard document={document} editing={editing} view={view} /> : <DrawingCard drawing={document.drawing} view={view} />}
      <SizeCard document={document} editing={editing} view={view} />
      <CurveList view={view} kinds={kinds} onAdd={add} />
      <WorkCard title="Mending">
        {steps.length === 0 && <p className="quiet-label">Nothing is changed yet. Steps work in this order and can be switched off.</p>}
        {steps.map((step) => (
          <MendRow
            key={step.id}
            part={kinds[step.kind]}
            step={step}
            onChange={(what, change) =>
              keep(
                `${kinds[step.kind]?.heading}, ${what}`,
                steps.map((other) => (other.id === step.id ? { ...other, ...change } : other)),
              )
            }
            onRemove={() =>
              keep(
                `${kinds[step.kind]?.heading} removed`,
                steps.filter((other) => other.id !== step.id),
              )
            }
          />
        ))}
        <Dropdown>
          <Dropdown.Toggle variant="outline-secondary" size="sm" className="w-100">
            <i className="bi bi-plus-lg me-1" aria-hidden="true" />
            Add a step
          </Dropdown.Toggle>
          <FloatingMenu className="mend-menu">
            {Object.entries(kinds)
              .filter(([kind]) => !ADDED_ELSEWHERE.includes(kind))
              .map(([kind, part]) => (
                <Dropdown.Item
                  key={kind}
                  as="button"
                  type="button"
                  title={part.hint}
                  onClick={() => add(kind as MendKind, chooses(part) && view ? { chosen: placesOf(view, chosen) } : {})}
                >
                  {part.heading}
                </Dropdown.Item>
              ))}
          </FloatingMenu>
        </Dropdown>
      </WorkCard>
    </>
  );
}
