import { useEffect, useRef } from "react";
import { fetchPreview, type MergePatch, type Preview } from "../api/preview";
import { useConnection } from "../api/connection";
import { useBenchStore } from "./benchStore";
import { LatestWins } from "./latestWins";

/** Pixels of the longer side: what is shown when nothing moves, and while something is dragged. */
export const AT_REST_PX = 640;
export const DRAGGING_PX = 320;

interface Request {
  change: MergePatch;
  longestPx: number;
}

/** Keep the store's preview in step with the kept revision and with what is being dragged. */
export function usePreview(pieceId: string, revision: number | undefined): void {
  const draft = useBenchStore((state) => state.draft);
  const set = useBenchStore((state) => state.set);
  const { connected } = useConnection();
  const loop = useRef<LatestWins<Request, Preview> | null>(null);

  useEffect(() => {
    set({ preview: null, refusal: null, line: null, cursor: null, draft: null });
    const current = new LatestWins<Request, Preview>(
      ({ change, longestPx }) => fetchPreview(pieceId, change, longestPx),
      (preview) => set({ preview, refusal: null }),
      (error) => set({ refusal: error instanceof Error ? error.message : String(error) }),
    );
    loop.current = current;
    return () => current.stop();
  }, [pieceId, set]);

  useEffect(() => {
    if (revision === undefined || !connected) return;
    if (draft) loop.current?.ask({ change: draft, longestPx: DRAGGING_PX });
    else loop.current?.ask({ change: {}, longestPx: AT_REST_PX });
  }, [pieceId, revision, draft, connected]);
}
