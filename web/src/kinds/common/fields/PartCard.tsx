import type { ReactNode } from "react";
import { usePartSchemas } from "../../../state/partSchemas";
import { WorkCard } from "../../../ui/WorkCard";
import { patchAt } from "./patchAt";
import { PartFields, type Work } from "./PartField";
import { valueAt } from "./valueAt";

interface Props extends Work {
  /** Where the part stands in the document. */
  at: string;
  /** When its hint is seen. */
  hint?: "always" | "off";
  children?: ReactNode;
}

/** The card of a part that can be switched on and off: its parameters, or what stands in their place. */
export function PartCard({ document, editing, at, hint = "always", children }: Props) {
  const part = usePartSchemas().part(document, at);
  const on = Boolean(valueAt(document, `${at}.on`));
  return (
    <WorkCard title={part.heading} on={on} onSwitch={(next) => editing.keep(`${part.heading} ${next ? "on" : "off"}`, patchAt(`${at}.on`, next))}>
      {on && (children ?? <PartFields document={document} editing={editing} at={at} />)}
      {part.hint && (hint === "always" || !on) && <p className="quiet-label">{part.hint}</p>}
    </WorkCard>
  );
}

/** The hint of a choice of the document, as it stands. */
export function ChoiceHint({ document, at }: { document: object; at: string }) {
  const hint = usePartSchemas().field(document, at).hints[String(valueAt(document, at))];
  return hint ? <p className="quiet-label">{hint}</p> : null;
}
