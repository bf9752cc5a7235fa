import ProgressBar from "react-bootstrap/ProgressBar";
import { useProgress } from "../../api/progress";
import { useAwaited } from "../../state/previews";

/** How far the server is with what the Plan waits for, when that takes noticeably long. */
export function PlanProgress({ pieceId }: { pieceId: string }) {
  const { pieceId: at, stage, fraction } = useProgress();
  const awaited = useAwaited();
  if (!awaited || at !== pieceId) return null;
  return (
    <div className="plan-progress" role="status">
      <span>{stage} …</span>
      <ProgressBar now={fraction * 100} aria-label="Preview progress" />
    </div>
  );
}
