import type { components } from "../../../api/schema";
import { usePartSchemas } from "../../../state/partSchemas";
import { FieldControl } from "../../common/fields/FieldControl";
import { PartFields, type Work } from "../../common/fields/PartField";
import { patchAt } from "../../common/fields/patchAt";

interface Props extends Work {
  base: components["schemas"]["OutlineBase"];
  at: string;
}

/** The plate under outlines that cannot do without one. */
export function PlateFields({ base, at, ...work }: Props) {
  const field = usePartSchemas().field(work.document, `${at}.kind`);
  return (
    <>
      <FieldControl field={field} offered={(kind) => kind !== "none"} value={base.kind} onKeep={(kind, words) => work.editing.keep(`${field.label} ${words}`, patchAt(`${at}.kind`, kind))} />
      <PartFields {...work} at={at} without={["kind"]} />
    </>
  );
}
