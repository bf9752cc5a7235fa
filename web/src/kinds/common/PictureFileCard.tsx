import { useState } from "react";
import ProgressBar from "react-bootstrap/ProgressBar";
import { useExport } from "../../api/pieces";
import { useCancel } from "../../state/useCancel";
import { useFileJob } from "../../state/useFileJob";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { WorkCard } from "../../ui/WorkCard";

const FORMATS = [
  { value: "png", label: "PNG" },
  { value: "tiff", label: "TIFF" },
] as const;

interface Props {
  pieceId: string;
  revision: number;
  /** What is written: the prepared picture, or the heights. */
  kind: "picture" | "heights";
  title: string;
  action: string;
  words: string;
}

/** A picture of 16 bits as a file, for use elsewhere. */
export function PictureFileCard({ pieceId, revision, kind, title, action, words }: Props) {
  const [format, setFormat] = useState<"png" | "tiff">("png");
  const order = useExport(pieceId, kind);
  const cancel = useCancel();
  const { newest, active, saveWhenDone } = useFileJob(pieceId, revision, kind);
  const done = newest?.picture;
  return (
    <WorkCard title={title}>
      {active ? (
        <>
          <div>{active.stage || "Waiting"} …</div>
          <ProgressBar now={active.fraction * 100} aria-label={`${title}, progress`} />
          <Button size="sm" variant="outline-secondary" onClick={() => cancel(active)}>
            Cancel
          </Button>
        </>
      ) : (
        <div className="d-flex gap-2">
          <Choice label={`${title}, format`} value={format} options={FORMATS} onChange={setFormat} />
          <Button
            size="sm"
            variant="outline-secondary"
            disabled={order.isPending}
            onClick={() => order.mutate(format, { onSuccess: saveWhenDone })}
          >
            {action}
          </Button>
        </div>
      )}
      {newest?.state === "failed" && (
        <p className="text-danger" role="alert">
          <i className="bi bi-x-octagon-fill me-1" aria-hidden="true" />
          {newest.message}
        </p>
      )}
      <p className="quiet-label">
        {done
          ? `${done.file_name}: ${done.size_px.map((side) => side.toLocaleString("en")).join(" × ")} pixels, 16 bit, ${done.dpi} dpi.`
          : words}
      </p>
    </WorkCard>
  );
}
