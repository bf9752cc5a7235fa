import type { Finding } from "../../../api/client";

export interface Verdict {
  mood: "fault" | "caution" | "sound";
  what: string;
  why: string;
}

/** Whether the piece can be made, in one sentence. */
export function verdictOf(findings: readonly Finding[], built: boolean): Verdict {
  const faults = findings.filter((finding) => finding.severity === "fault").length;
  const cautions = findings.filter((finding) => finding.severity === "caution").length;
  if (faults > 0) {
    return { mood: "fault", what: `Not ready: ${counted(faults, "fault")} must be mended.`, why: "They are listed below." };
  }
  const proof = built
    ? "The solid was built and proved: what is delivered is what was checked."
    : "The solid itself is proved when it is built, at Deliver.";
  if (cautions > 0) {
    return { mood: "caution", what: `Can be made, with ${counted(cautions, "thing")} to look at.`, why: proof };
  }
  return { mood: "sound", what: built ? "Ready to be made." : "Nothing speaks against making it.", why: proof };
}

function counted(number: number, what: string): string {
  return `${number} ${what}${number === 1 ? "" : "s"}`;
}
