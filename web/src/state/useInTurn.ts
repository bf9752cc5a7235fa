import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useConnection } from "../api/connection";
import { useLast } from "./useLast";

/** Answers to what was dragged are not wanted again. */
const DRAFT_KEPT_MS = 1_000;
const KEPT_MS = 60_000;

interface InTurn<Request, Data> {
  /** The last answer. */
  data: Data | undefined;
  /** The request that it answers, once the newest one that was asked is answered. */
  answers: Request | null;
  error: Error | null;
}

/**
 * The newest request, but never another one before the one on its way was answered: while something is dragged, every
 * answer is shown, and none waits behind requests that nobody wants any more. What was answered last stays until then.
 */
export function useInTurn<Request extends { dragging: boolean }, Data>(
  what: string,
  pieceId: string,
  wanted: Request | null,
  fetch: (pieceId: string, request: Request, signal: AbortSignal) => Promise<Data>,
): InTurn<Request, Data> {
  const { connected } = useConnection();
  const [asked, setAsked] = useState(wanted);
  const query = useQuery({
    queryKey: [what, pieceId, asked],
    queryFn: ({ signal }) => (asked ? fetch(pieceId, asked, signal) : Promise.reject(new Error("Nothing was asked."))),
    enabled: asked !== null && connected,
    staleTime: Infinity,
    gcTime: asked?.dragging ? DRAFT_KEPT_MS : KEPT_MS,
    retry: false,
  });
  if (!query.isFetching && asked !== wanted) setAsked(wanted);
  const data = useLast(query.data, pieceId);
  return { data, answers: query.data === undefined ? null : asked, error: query.error };
}
