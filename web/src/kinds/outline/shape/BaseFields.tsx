import type { components } from "../../../api/schema";
import type { Editing } from "../../../state/useEditing";
import { BoundChoice, BoundLength } from "../../common/bound";

const KINDS = [
  { value: "none", label: "None" },
  { value: "rectangle", label: "Rectangle" },
  { value: "ellipse", label: "Ellipse" },
  { value: "outline", label: "Outline" },
] as const;

interface Props {
  base: components["schemas"]["OutlineBase"];
  editing: Editing;
  at: string;
  /** Whether there may be no plate at all. */
  none?: boolean;
}

/** The plate under outlines. */
export function BaseFields({ base, editing, at, none }: Props) {
  return (
    <>
      <BoundChoice label="Plate" editing={editing} at={`${at}.kind`} value={base.kind} options={none ? KINDS : KINDS.slice(1)} />
      {base.kind !== "none" && (
        <>
          <BoundLength label="Beyond the outlines" editing={editing} at={`${at}.margin_mm`} value={base.margin_mm} lowest={0} highest={500} slider={{ from: 0, to: 15 }} step={0.5} />
          <BoundLength label="Plate thickness" editing={editing} at={`${at}.thickness_mm`} value={base.thickness_mm} lowest={0.1} highest={200} slider={{ from: 0.4, to: 8 }} step={0.2} />
        </>
      )}
    </>
  );
}
