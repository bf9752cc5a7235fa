import type { Finding } from "../../../api/client";
import { verdictOf } from "./verdict";

const MARKS = { fault: "bi-x-octagon-fill", caution: "bi-exclamation-triangle-fill", sound: "bi-check-circle-fill" } as const;

/** Whether the piece can be made, before anything else. */
export function VerdictCard({ findings, built }: { findings: readonly Finding[]; built: boolean }) {
  const { mood, what, why } = verdictOf(findings, built);
  return (
    <section className={`verdict ${mood}`} aria-label="Verdict" role="status">
      <i className={`bi ${MARKS[mood]}`} aria-hidden="true" />
      <div>
        <strong>{what}</strong>
        <p className="quiet-label mb-0">{why}</p>
      </div>
    </section>
  );
}
