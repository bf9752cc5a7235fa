import { useQuery } from "@tanstack/react-query";
import { useOpKinds, type PictureOp } from "../../../api/ops";
import { AT_REST_PX, fetchPlan } from "../../../api/preview";
import { useBenchStore } from "../../../state/benchStore";
import type { Before } from "../../../views/plan/before";

const FRAMING = ["frame", "tile"];

export function useBefore(pieceId: string, revision: number, ops: readonly PictureOp[], upto: string | null): Before {
  const kinds = useOpKinds();
  const divider = useBenchStore((state) => state.divider);
  const frames = (op: PictureOp) => FRAMING.includes(kinds.find((kind) => kind.kind === op.kind)?.group ?? "");
  const seen = upto === null ? ops : ops.slice(0, ops.findIndex((op) => op.id === upto) + 1);
  const framing = seen.filter(frames);
  const comparable = seen.some((op) => op.on && !frames(op));
  const before = useQuery({
    queryKey: ["before", pieceId, revision, upto],
    queryFn: ({ signal }) => fetchPlan(pieceId, { ops: framing }, AT_REST_PX, upto === null ? null : (framing.at(-1)?.id ?? ""), signal),
    enabled: comparable && divider !== null,
    placeholderData: (last) => last,
  });
  return { comparable, plan: comparable && divider !== null ? (before.data ?? null) : null };
}
