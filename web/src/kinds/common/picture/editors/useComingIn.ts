import { useQuery } from "@tanstack/react-query";
import { fetchPlan } from "../../../../api/preview";
import { histogram } from "../../../../ui/histogram";
import { idBefore } from "../../ops/opEdits";
import type { EditorProps } from "./editorProps";

const INPUT_PX = 512;

/** The histogram of what comes into an op. */
export function useComingIn({ pieceId, revision, ops, op }: EditorProps): Uint32Array | undefined {
  const upto = idBefore(ops, op.id);
  return useQuery({
    queryKey: ["coming in", pieceId, revision, upto],
    queryFn: async () => histogram((await fetchPlan(pieceId, {}, INPUT_PX, upto)).grid),
    placeholderData: (before) => before,
  }).data;
}
