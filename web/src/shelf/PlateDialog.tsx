import { useState } from "react";
import Form from "react-bootstrap/Form";
import Modal from "react-bootstrap/Modal";
import type { PieceCard } from "../api/client";
import { useLayPlate } from "../api/printing";
import { useSavedJob } from "../state/useFileJob";
import { useCancel } from "../state/useCancel";
import { Button } from "../ui/Button";
import { JobProgress } from "../ui/JobProgress";
import { LengthField } from "../ui/LengthField";

const MOST_COPIES = 200;
const MOST_BED_MM = 5000;
const BED_MM = 220;
const GAP_MM = 4;

/** Several pieces, and several of each, on one bed: built, packed, and saved as one 3MF. */
export function PlateDialog({ pieces, onHide }: { pieces: readonly PieceCard[]; onHide: () => void }) {
  const [copies, setCopies] = useState<Record<string, number>>({});
  const [bed, setBed] = useState<[number, number]>([BED_MM, BED_MM]);
  const [gap, setGap] = useState(GAP_MM);
  const lay = useLayPlate();
  const cancel = useCancel();
  const { job, active } = useSavedJob(pieces[0]?.id ?? "", lay.data?.id);
  const order = () =>
    lay.mutate({ items: pieces.map(({ id }) => ({ piece_id: id, copies: copies[id] ?? 1 })), bed_mm: bed, gap_mm: gap });
  const count = pieces.reduce((sum, { id }) => sum + (copies[id] ?? 1), 0);
  return (
    <Modal show onHide={onHide} centered aria-labelledby="plate-title">
      <Modal.Header closeButton>
        <Modal.Title as="h2" className="fs-5" id="plate-title">
          Print on one bed
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <ul className="plate-items" aria-label="How many of each">
          {pieces.map(({ id, title }) => (
            <li key={id}>
              <span>{title}</span>
              <Form.Control
                type="number"
                size="sm"
                min={1}
                max={MOST_COPIES}
                aria-label={`How many of ${title}`}
                value={copies[id] ?? 1}
                onChange={({ currentTarget }) => setCopies({ ...copies, [id]: Math.min(MOST_COPIES, Math.max(1, Math.round(Number(currentTarget.value)) || 1)) })}
              />
            </li>
          ))}
        </ul>
        <div className="field-pairs">
          <LengthField label="Bed, width" value={bed[0]} lowest={1} highest={MOST_BED_MM} step={10} onKeep={(wide) => setBed([wide, bed[1]])} />
          <LengthField label="Bed, depth" value={bed[1]} lowest={1} highest={MOST_BED_MM} step={10} onKeep={(deep) => setBed([bed[0], deep])} />
          <LengthField label="Between any two" value={gap} lowest={0} highest={200} step={1} onKeep={setGap} />
        </div>
        <p className="quiet-label">Each is built and laid as it is to be printed, in its colours; the file holds an object for each.</p>
        {active && <JobProgress stage={active.stage} fraction={active.fraction} label="Progress of the plate" testId="plate-stage" onCancel={() => cancel(active)} />}
        {job?.plate && (
          <p data-testid="plate-done">
            {job.plate.file_name}: {job.plate.report.pieces.length} pieces on {job.plate.report.used_mm.map((side) => side.toFixed(1)).join(" × ")} mm, each{" "}
            {job.plate.sound ? "proved sound" : "written, but not all are sound"}.
          </p>
        )}
        {(lay.error ?? (job?.state === "failed" ? job : null)) && (
          <p className="measure-refusal" role="alert">
            {lay.error?.message ?? job?.message}
          </p>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="outline-secondary" onClick={onHide}>
          Close
        </Button>
        <Button onClick={order} disabled={lay.isPending || active !== undefined}>
          Lay {count} {count === 1 ? "piece" : "pieces"} and save 3MF
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
