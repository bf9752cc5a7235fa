import { useEffect } from "react";
import { useDepthStore } from "../../../state/depthStore";
import { usePartSchemas } from "../../../state/partSchemas";
import { Button } from "../../../ui/Button";
import { StepHead } from "../../../ui/StepHead";
import { WorkCard } from "../../../ui/WorkCard";
import { RowFields } from "../fields/RowFields";
import { patchAt } from "../fields/patchAt";
import { depthIn, type DepthHome, type DepthWork } from "./depthHome";

type Parts = DepthHome["order"];

/** Which part stands before which: a list, the nearest first, of places on the Plan. */
export function OrderCard({ document, editing, at: place }: Pick<DepthWork, "document" | "editing" | "at">) {
  const part = usePartSchemas().named("OrderedPart");
  const { marking, set } = useDepthStore();
  const { order } = depthIn(document, place);
  useEffect(() => () => set({ marking: false }), [set]);
  const keep = (what: string, next: Parts) => editing.keep(what, patchAt(`${place}.order`, next));
  const swap = (at: number, by: -1 | 1) => {
    const next = [...order];
    const [moved] = next.splice(at, 1);
    if (moved) next.splice(at + by, 0, moved);
    keep(`Part ${at + 1} ${by < 0 ? "nearer" : "further"}`, next);
  };
  return (
    <WorkCard title={part.heading}>
      <p className="quiet-label">{part.hint}</p>
      <Button size="sm" variant={marking ? "primary" : "outline-secondary"} aria-pressed={marking} onClick={() => set({ marking: !marking, kind: null })}>
        {marking ? "Press on a part on the Plan" : "Mark a part on the Plan"}
      </Button>
      {order.map((each, at) => (
        <section key={each.id} className="opening" aria-label={`Part ${at + 1}`}>
          <StepHead
            title={`Part ${at + 1}`}
            on={each.on}
            onSwitch={(on) => keep(`Part ${at + 1} ${on ? "on" : "off"}`, order.map((other, i) => (i === at ? { ...other, on } : other)))}
            onRemove={() => keep(`Part ${at + 1} removed`, order.filter((_, i) => i !== at))}
            removeLabel={`Remove part ${at + 1}`}
          >
            <button type="button" className="icon-button" aria-label={`Part ${at + 1}: nearer`} disabled={at === 0} onClick={() => swap(at, -1)}>
              <i className="bi bi-arrow-up" aria-hidden="true" />
            </button>
            <button type="button" className="icon-button" aria-label={`Part ${at + 1}: further`} disabled={at === order.length - 1} onClick={() => swap(at, 1)}>
              <i className="bi bi-arrow-down" aria-hidden="true" />
            </button>
          </StepHead>
          <RowFields
            part={part}
            row={each}
            only={["step_mm"]}
            onKeep={(what, row) => keep(`Part ${at + 1}, ${what}`, order.map((other, i) => (i === at ? { ...other, ...row } : other)))}
          />
        </section>
      ))}
    </WorkCard>
  );
}
