import type { Finding } from "../api/client";

const MARKS = { fault: "bi-x-octagon-fill", caution: "bi-exclamation-triangle-fill", note: "bi-check-circle-fill" };
const WORDS = { fault: "Fault", caution: "Caution", note: "Good to know" };

/** Findings in plain words, each with an icon and a word beside the colour. */
export function FindingList({ findings }: { findings: readonly Finding[] }) {
  return (
    <div role="list">
      {findings.map((finding) => (
        <div key={finding.measure + finding.what} role="listitem" className={`finding ${finding.severity}`}>
          <i className={`finding-mark bi ${MARKS[finding.severity]}`} role="img" aria-label={WORDS[finding.severity]} />
          <span className="finding-what">{finding.what}</span>
          <span className="finding-why">{finding.why}</span>
        </div>
      ))}
    </div>
  );
}
