import { useState } from "react";
import { useNavigate } from "react-router";
import { can, type Finding, type PieceView } from "../api/client";
import { useJobs } from "../api/pieces";
import type { Fix } from "../kinds/common/pageKind";
import { FindingList } from "../ui/FindingList";
import { useBenchStore } from "../state/benchStore";
import { builtReport } from "../api/built";
import { useFoundSoFar } from "../state/previews";
import type { Editing } from "../state/useEditing";

/** A fix that is no step of the piece: what else it can be. */
const ELSEWHERE = "choose";
/** One that changes the document itself. */
const CHANGE = "change";
const THIN = ["thin-stroke", "thin-gap"];

interface Props {
  piece: PieceView;
  onFix: (fix: Fix) => void;
  onKeep: Editing["keep"];
}

/** What is known now: after a build all of it, before that what the draft shows. */
export function Findings({ piece, onFix, onKeep }: Props) {
  const foreseen = useFoundSoFar();
  const draft = useBenchStore((state) => state.draft);
  const thinShown = useBenchStore((state) => state.thinShown);
  const set = useBenchStore((state) => state.set);
  const jobs = useJobs(piece.id);
  const [shown, setShown] = useState(true);
  const navigate = useNavigate();
  const report = draft ? undefined : builtReport(jobs.data, piece.revision);
  const findings = report?.findings ?? foreseen;
  const show = (finding: Finding) => {
    if (THIN.includes(finding.measure)) set({ thinShown: !thinShown, station: "picture", opId: null, look: "end" });
    if (finding.where && can(piece, "outlines")) set({ station: "outlines" });
    if (finding.where) set({ cursor: { x: finding.where[0], y: finding.where[1] } });
  };
  return (
    <section className="findings-pane" aria-label="Findings">
      <h2>
        <button type="button" aria-expanded={shown} onClick={() => setShown(!shown)} title={shown ? "Fold the findings" : "Show the findings"}>
          <i className={`bi bi-chevron-${shown ? "down" : "right"}`} aria-hidden="true" />
          Findings{report ? "" : " so far"}
          {!shown && findings.length > 0 && <span className="quiet-label"> · {findings.length}</span>}
        </button>
      </h2>
      {!shown ? null : findings.length ? (
        <div className="findings-list" tabIndex={0} role="group" aria-label="What was found">
          <FindingList
            findings={findings}
            onFix={({ fix }) => {
              if (fix?.kind === ELSEWHERE) void navigate(`/piece/${piece.id}/choose`);
              else if (fix?.kind === CHANGE) onKeep(fix.words, fix.parameters);
              else if (fix) onFix(fix);
            }}
            canShow={(finding) => THIN.includes(finding.measure) || Boolean(finding.where)}
            onShow={show}
          />
        </div>
      ) : (
        <p className="quiet-label mb-0">Nothing stands out. The build checks the solid itself.</p>
      )}
    </section>
  );
}
