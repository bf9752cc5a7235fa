import { useMemo } from "react";
import type { PicturedDocument } from "../../../api/client";
import { opsOf, useOpKinds, type OpKind, type PictureOp } from "../../../api/ops";
import { useBenchStore } from "../../../state/benchStore";
import type { Editing } from "../../../state/useEditing";
import { firstLook } from "./lookedAt";
import { moved, newOp, withAdded, withCopy, without, withParameters } from "./opEdits";

export interface OpsEditing {
  /** As kept, or just being kept. */
  ops: readonly PictureOp[];
  /** With what is being dragged. */
  shown: readonly PictureOp[];
  kindOf: (op: PictureOp) => OpKind | undefined;
  titleOf: (op: PictureOp) => string;
  /** Work on an op, or on none. */
  open: (op: PictureOp | null) => void;
  add: (kind: string, parameters?: Record<string, unknown>, label?: string) => void;
  drag: (id: string, parameters: Record<string, unknown>) => void;
  keep: (id: string, label: string, parameters: Record<string, unknown>) => void;
  copy: (id: string) => void;
  remove: (id: string) => void;
  move: (id: string, to: number) => void;
}

/** The picture ops of a piece and all that can be done to their list. */
export function useOps(document: PicturedDocument, editing: Editing): OpsEditing {
  const kinds = useOpKinds();
  const draft = useBenchStore((state) => state.draft);
  const set = useBenchStore((state) => state.set);
  const ops = opsOf(document);
  return useMemo(() => {
    const kindOf = (op: PictureOp) => kinds.find((kind) => kind.kind === op.kind);
    const titleOf = (op: PictureOp) => kindOf(op)?.title ?? `“${op.kind}”`;
    const titleAt = (id: string) => titleOf(ops.find((op) => op.id === id) ?? { kind: "step", id, on: true });
    const open = (op: PictureOp | null) =>
      set({ opId: op?.id ?? null, look: firstLook(op, op ? kindOf(op) : undefined) });
    return {
      ops,
      shown: (draft?.ops as readonly PictureOp[] | undefined) ?? ops,
      kindOf,
      titleOf,
      open,
      add: (name, parameters, label) => {
        const kind = kinds.find((each) => each.kind === name);
        if (!kind) return;
        const op = newOp(kind, parameters);
        editing.keep(label ?? `Add ${kind.title.toLowerCase()}`, { ops: withAdded(ops, op) });
        open(op);
      },
      drag: (id, parameters) => editing.drag({ ops: withParameters(ops, id, parameters) }),
      keep: (id, label, parameters) => {
        const kept = withParameters(ops, id, parameters);
        editing.keep(`${titleAt(id)}: ${label}`, { ops: kept });
        const way = parameters.by !== undefined && kept.find((op) => op.id === id);
        if (way) open(way);
      },
      copy: (id) => {
        const copied = withCopy(ops, id);
        editing.keep(`Copy ${titleAt(id).toLowerCase()}`, { ops: copied.ops });
      },
      remove: (id) => editing.keep(`Remove ${titleAt(id).toLowerCase()}`, { ops: without(ops, id) }),
      move: (id, to) => editing.keep(`Move ${titleAt(id).toLowerCase()}`, { ops: moved(ops, id, to) }),
    };
  }, [ops, draft, kinds, editing, set]);
}
