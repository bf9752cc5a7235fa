import ProgressBar from "react-bootstrap/ProgressBar";
import { useBenchStore } from "../../bench/benchStore";
import { useProgress } from "../../api/progress";

/** How far the server is with what the Plan waits for, when that takes noticeably long. */
export function PlanProgress({ pieceId }: { pieceId: string }) {
  const { pieceId: at, stage, fraction } = useProgress();
  const awaited = useBenchStore((state) => state.planAwaited || state.pending !== null);
  if (!awaited || at !== pieceId) return null;
  return (
    <div className="plan-progress" role="status">
      <span>{stage} …</span>
      <ProgressBar now={fraction * 100} aria-label="Preview progress" />
    </div>
  );
}
