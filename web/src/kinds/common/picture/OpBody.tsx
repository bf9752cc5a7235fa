import type { OpKind, PictureOp } from "../../../api/ops";
import { useBenchStore } from "../../../state/benchStore";
import { Choice } from "../../../ui/Choice";
import { HandEditor } from "./editors/HandEditor";
import type { Look } from "../../../state/benchStore";
import { OpFields } from "./OpFields";
import type { OpsEditing } from "../ops/useOps";

const LOOKS: readonly { value: Look; label: string }[] = [
  { value: "in", label: "Before it" },
  { value: "out", label: "After it" },
  { value: "end", label: "Finished" },
];

interface Props {
  pieceId: string;
  revision: number;
  op: PictureOp;
  kind: OpKind | undefined;
  editing: OpsEditing;
}

/** What an op that is worked on can be told. */
export function OpBody({ pieceId, revision, op, kind, editing }: Props) {
  const look = useBenchStore((state) => state.look);
  const set = useBenchStore((state) => state.set);
  if (!kind) {
    return (
      <p className="quiet-label px-2 pb-2">
        This step was made by a newer Nebrel. It is kept as it is, and does nothing here.
      </p>
    );
  }
  const onDrag = (parameters: Record<string, unknown>) => editing.drag(op.id, parameters);
  const onKeep = (label: string, parameters: Record<string, unknown>) => editing.keep(op.id, label, parameters);
  const shown = editing.shown.find((each) => each.id === op.id) ?? op;
  return (
    <div className="op-body">
      <p className="quiet-label">{kind.hint}</p>
      <HandEditor
        pieceId={pieceId}
        revision={revision}
        op={shown}
        kind={kind}
        ops={editing.ops}
        onDrag={onDrag}
        onKeep={onKeep}
      />
      <OpFields pieceId={pieceId} kind={kind} op={op} onDrag={onDrag} onKeep={onKeep} />
      <div>
        <div className="mb-1 quiet-label">The Plan shows the picture</div>
        <Choice label="The Plan shows the picture" value={look} options={LOOKS} onChange={(next) => set({ look: next })} />
      </div>
    </div>
  );
}
