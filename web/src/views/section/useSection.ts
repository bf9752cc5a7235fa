import { useEffect, useRef, useState } from "react";
import { answered, api, type SectionCut } from "../../api/client";
import type { MergePatch } from "../../api/preview";
import { useBenchStore, type Line } from "../../bench/benchStore";
import { AT_REST_PX, DRAGGING_PX } from "../../bench/usePreview";
import { LatestWins } from "../../bench/latestWins";
import { FIRST_LINE, lineInMm } from "../spot";


interface Request {
  change: MergePatch;
  line: Line;
  longestPx: number;
}

/** The cut along the section line of what the bench shows now. */
export function useSection(pieceId: string): SectionCut | null {
  const preview = useBenchStore((state) => state.preview);
  const line = useBenchStore((state) => state.line) ?? FIRST_LINE;
  const draft = useBenchStore((state) => state.draft);
  const [cut, setCut] = useState<SectionCut | null>(null);
  const loop = useRef<LatestWins<Request, SectionCut> | null>(null);

  useEffect(() => {
    const current = new LatestWins<Request, SectionCut>(
      ({ change, line, longestPx }) =>
        answered(
          api.POST("/api/pieces/{piece_id}/section", {
            params: { path: { piece_id: pieceId } },
            body: {
              change,
              longest_px: longestPx,
              start: [line.start.x, line.start.y],
              end: [line.end.x, line.end.y],
            },
          }),
        ),
      setCut,
      () => setCut(null),
    );
    loop.current = current;
    return () => current.stop();
  }, [pieceId]);

  useEffect(() => {
    const longestPx = draft ? DRAGGING_PX : AT_REST_PX;
    if (preview) loop.current?.ask({ change: draft ?? {}, line: lineInMm(line, preview.head.size_mm), longestPx });
    // The draft travels with the preview that it made: asking again on the preview alone keeps both in step.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [preview, line]);

  return cut;
}
