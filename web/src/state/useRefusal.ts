import { useEffect } from "react";
import { NO_ANSWER } from "../api/client";
import { useConnection } from "../api/connection";
import { useBenchStore } from "./benchStore";
import { usePlanSide } from "./previews";

/**
 * Why what was last done or shown cannot be, in a sentence. Without a server the page says so elsewhere. Once it is back,
 * an edit that got no answer is seen on the piece, kept or not.
 */
export function useRefusal(): string | null {
  const { connected } = useConnection();
  const planned = usePlanSide().refusal;
  const refused = useBenchStore((state) => state.editRefusal ?? state.refusal);
  useEffect(() => {
    const { editRefusal, set } = useBenchStore.getState();
    if (connected && editRefusal === NO_ANSWER) set({ editRefusal: null });
  }, [connected]);
  return connected ? (refused ?? planned) : null;
}
