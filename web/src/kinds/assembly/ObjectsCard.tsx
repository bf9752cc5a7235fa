import type { AssemblyDocument } from "../../api/client";
import type { Editing } from "../../state/useEditing";
import { WorkCard } from "../../ui/WorkCard";
import { PartField } from "../common/fields/PartField";

/** Whether the whole is delivered as one solid or as an object for each part. */
export function ObjectsCard({ document, editing }: { document: AssemblyDocument; editing: Editing }) {
  return (
    <WorkCard title="Parts in the file">
      <PartField at="objects" document={document} editing={editing} />
    </WorkCard>
  );
}
