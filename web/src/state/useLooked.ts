import { builtJob } from "../api/built";
import { useJobs } from "../api/pieces";
import type { Looked } from "../api/printing";

/** Which layers are looked at: of the finished solid once this very revision was built. */
export function useLooked(pieceId: string, revision: number): Looked {
  const finished = builtJob(useJobs(pieceId).data, revision) !== undefined;
  return { pieceId, revision, finished };
}
