import { useEffect, useRef, useState } from "react";
import type { JobView } from "../api/client";
import { useJobs } from "../api/pieces";
import { isActive } from "../api/built";

interface FileJob {
  /** The newest job of the kind for this revision. */
  newest: JobView | undefined;
  /** It, while it waits or runs. */
  active: JobView | undefined;
  /** Save the job's file as soon as it is done. */
  saveWhenDone: (job: JobView) => void;
}

/** Work that ends in a file: how far it is, and the file saved as soon as there is one. */
export function useFileJob(pieceId: string, revision: number, kind: "build" | "picture" | "heights" | "turntable"): FileJob {
  const jobs = useJobs(pieceId).data;
  const [awaited, setAwaited] = useState<string | null>(null);
  const saved = useRef<string | null>(null);
  const newest = jobs?.find((job) => job.kind === kind && job.revision === revision);

  useEffect(() => {
    if (newest?.state === "done" && awaited === newest.id && saved.current !== newest.id) {
      saved.current = newest.id;
      saveFile(newest.id);
    }
  }, [newest, awaited]);

  return {
    newest,
    active: newest && isActive(newest) ? newest : undefined,
    saveWhenDone: (job) => setAwaited(job.id),
  };
}

/** One job that was just asked for, listed with a piece, and its file saved once it is done. */
export function useSavedJob(pieceId: string, jobId: string | undefined): { job: JobView | undefined; active: JobView | undefined } {
  const job = useJobs(pieceId).data?.find(({ id }) => id === jobId);
  const saved = useRef<string | null>(null);
  useEffect(() => {
    if (job?.state !== "done" || saved.current === job.id) return;
    saved.current = job.id;
    saveFile(job.id);
  }, [job]);
  return { job, active: job && isActive(job) ? job : undefined };
}

export function saveFile(jobId: string): void {
  const link = window.document.createElement("a");
  link.href = `/api/jobs/${jobId}/file`;
  link.download = "";
  link.click();
}
