import type { BuildReport, JobView } from "./client";

export function isActive(job: JobView): boolean {
  return job.state === "waiting" || job.state === "running";
}

/** The finished build of this very revision, if there is one. */
export function builtJob(jobs: readonly JobView[] | undefined, revision: number): JobView | undefined {
  return jobs?.find((job) => job.kind === "build" && job.state === "done" && job.revision === revision);
}

export function builtReport(jobs: readonly JobView[] | undefined, revision: number): BuildReport | undefined {
  return builtJob(jobs, revision)?.result?.report;
}
