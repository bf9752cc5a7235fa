import { useQuery } from "@tanstack/react-query";
import { useOpKinds, type PictureOp } from "../../api/ops";
import { fetchPlan, type Plan } from "../../api/preview";
import { useBenchStore } from "../../bench/benchStore";
import { AT_REST_PX } from "../../bench/usePreviews";

const FRAMING = ["frame", "tile"];

export interface Before {
  /** Whether anything but the frame was changed. */
  comparable: boolean;
  /** The picture with only its frame changed, so that it lies on what the Plan shows; null unless it is compared. */
  plan: Plan | null;
}

export function useBefore(pieceId: string, revision: number, ops: readonly PictureOp[], upto: string | null): Before {
  const kinds = useOpKinds();
  const divider = useBenchStore((state) => state.divider);
  const frames = (op: PictureOp) => FRAMING.includes(kinds.find((kind) => kind.kind === op.kind)?.group ?? "");
  const seen = upto === null ? ops : ops.slice(0, ops.findIndex((op) => op.id === upto) + 1);
  const framing = seen.filter(frames);
  const comparable = seen.some((op) => op.on && !frames(op));
  const before = useQuery({
    queryKey: ["before", pieceId, revision, upto],
    queryFn: () => fetchPlan(pieceId, { ops: framing }, AT_REST_PX, upto === null ? null : (framing.at(-1)?.id ?? "")),
    enabled: comparable && divider !== null,
    placeholderData: (last) => last,
  });
  return { comparable, plan: comparable && divider !== null ? (before.data ?? null) : null };
}
