import Modal from "react-bootstrap/Modal";
import type { PieceCard } from "../api/client";
import { usePackParcel } from "../api/parcels";
import { useCancel } from "../state/useCancel";
import { useSavedJob } from "../state/useFileJob";
import { Button } from "../ui/Button";
import { JobProgress } from "../ui/JobProgress";

/** Many pieces built and saved as one ZIP, with a table and a sheet of their pictures. */
export function ParcelDialog({ pieces, onHide }: { pieces: readonly PieceCard[]; onHide: () => void }) {
  const pack = usePackParcel();
  const cancel = useCancel();
  const { job, active } = useSavedJob(pieces[0]?.id ?? "", pack.data?.id);
  const parcel = job?.parcel;
  const refusal = pack.error?.message ?? (job?.state === "failed" ? job.message : null);
  return (
    <Modal show onHide={onHide} centered scrollable aria-labelledby="parcel-title">
      <Modal.Header closeButton>
        <Modal.Title as="h2" className="fs-5" id="parcel-title">
          Save all in one ZIP
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <p>
          {pieces.length === 1 ? "One piece is" : `${pieces.length} pieces are`} built for delivery, each in the format that its own settings say. A table of what was measured and a sheet of pictures come with
          them; what cannot be made is told, and keeps nothing else back.
        </p>
        {active && <JobProgress stage={active.stage} fraction={active.fraction} label="Progress of the parcel" testId="parcel-stage" onCancel={() => cancel(active)} />}
        {parcel && (
          <p data-testid="parcel-done">
            {parcel.file_name}: {parcel.done} of {parcel.done + parcel.refused.length} done
            {parcel.unsound ? `, ${parcel.unsound} of them not sound.` : ", each proved sound."}
          </p>
        )}
        {parcel?.refused.map((why) => (
          <p key={why} className="measure-refusal">
            {why}
          </p>
        ))}
        {refusal && (
          <p className="measure-refusal" role="alert">
            {refusal}
          </p>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="outline-secondary" onClick={onHide}>
          Close
        </Button>
        <Button onClick={() => pack.mutate(pieces.map(({ id }) => id))} disabled={pack.isPending || active !== undefined}>
          Build and save ZIP
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
