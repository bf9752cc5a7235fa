import ProgressBar from "react-bootstrap/ProgressBar";
import { Button } from "./Button";

interface Props {
  /** What is done now; "" while it waits. */
  stage: string;
  fraction: number;
  /** What the bar is called. */
  label: string;
  testId?: string;
  onCancel: () => void;
}

/** How far long work is, and the way to end it. */
export function JobProgress({ stage, fraction, label, testId, onCancel }: Props) {
  return (
    <>
      <div className="d-flex justify-content-between">
        <span data-testid={testId}>{stage || "Waiting"} …</span>
        <span>{Math.round(fraction * 100)} %</span>
      </div>
      <ProgressBar now={fraction * 100} aria-label={label} />
      <Button size="sm" variant="outline-secondary" onClick={onCancel}>
        Cancel
      </Button>
    </>
  );
}
