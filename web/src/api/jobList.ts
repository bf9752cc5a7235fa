import type { JobView } from "./client";

/** The list with a job's state. An answer that was overtaken by news of the same job does not take it back. */
export function withJob(known: readonly JobView[], job: JobView): JobView[] {
  if (!known.some((other) => other.id === job.id)) return [job, ...known];
  return known.map((other) => (other.id === job.id && rank(job) >= rank(other) ? job : other));
}

function rank({ state }: JobView): number {
  return state === "waiting" ? 0 : state === "running" ? 1 : 2;
}
