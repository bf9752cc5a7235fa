import { useProblems } from "../api/server";
import { ago } from "../shelf/ago";
import { WorkCard } from "../ui/WorkCard";

/** What went wrong of late, and a report for those who can mend it. */
export function ProblemsCard() {
  const { data: problems, error } = useProblems();
  return (
    <WorkCard title="Problems">
      {error && (
        <p className="measure-refusal" role="alert">
          {error.message}
        </p>
      )}
      {problems?.length === 0 && <p className="mb-0">Nothing went wrong of late.</p>}
      {problems && problems.length > 0 && (
        <ul className="keeping-problems" aria-label="What went wrong">
          {problems.map((problem, at) => (
            <li key={`${problem.when} ${at}`}>
              <span className="quiet-label">
                {problem.about}, {ago(new Date(problem.when), new Date())}
              </span>
              <br />
              {problem.what}
            </li>
          ))}
        </ul>
      )}
      <p className="quiet-label mb-0">
        <a className="btn btn-outline-secondary btn-sm me-2" href="/api/problem-report.txt" download>
          Save a report
        </a>
        It holds the log, versions and sizes, and no picture, title or token.
      </p>
    </WorkCard>
  );
}
