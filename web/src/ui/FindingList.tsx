import type { Finding } from "../api/client";
import { Button } from "./Button";

const MARKS = { fault: "bi-x-octagon-fill", caution: "bi-exclamation-triangle-fill", note: "bi-check-circle-fill" };
const WORDS = { fault: "Fault", caution: "Caution", note: "Good to know" };

interface Props {
  findings: readonly Finding[];
  /** Add the step that mends a finding. */
  onFix: (finding: Finding) => void;
  /** Show where it is; whether that is possible, and whether it is shown now. */
  canShow: (finding: Finding) => boolean;
  onShow: (finding: Finding) => void;
}

/** Findings in plain words, each with an icon and a word beside the colour, and what can be done about it. */
export function FindingList({ findings, onFix, canShow, onShow }: Props) {
  return (
    <div role="list">
      {findings.map((finding) => (
        <div key={finding.measure + finding.what} role="listitem" className={`finding ${finding.severity}`}>
          <i className={`finding-mark bi ${MARKS[finding.severity]}`} role="img" aria-label={WORDS[finding.severity]} />
          <span className="finding-what">{finding.what}</span>
          <span className="finding-why">{finding.why}</span>
          {(finding.fix || canShow(finding)) && (
            <span className="finding-acts">
              {finding.fix && (
                <Button size="sm" variant="outline-secondary" aria-label={`Fix: ${finding.fix.words}`} onClick={() => onFix(finding)}>
                  <b>Fix</b> · {finding.fix.words}
                </Button>
              )}
              {canShow(finding) && (
                <Button size="sm" variant="outline-secondary" onClick={() => onShow(finding)}>
                  Show
                </Button>
              )}
            </span>
          )}
        </div>
      ))}
    </div>
  );
}
