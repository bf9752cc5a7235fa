import { useState } from "react";
import ProgressBar from "react-bootstrap/ProgressBar";
import { useExportPicture } from "../../api/pieces";
import { useCancel } from "../../bench/useCancel";
import { useFileJob } from "../../bench/useFileJob";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { WorkCard } from "../../ui/WorkCard";

const FORMATS = [
  { value: "png", label: "PNG" },
  { value: "tiff", label: "TIFF" },
] as const;

/** The prepared picture as a file, for use elsewhere. */
export function ExportCard({ pieceId, revision }: { pieceId: string; revision: number }) {
  const [format, setFormat] = useState<"png" | "tiff">("png");
  const order = useExportPicture(pieceId);
  const cancel = useCancel();
  const { newest, active, saveWhenDone } = useFileJob(pieceId, revision, "picture");
  const done = newest?.picture;
  return (
    <WorkCard title="Prepared picture as a file">
      {active ? (
        <>
          <div>{active.stage || "Waiting"} …</div>
          <ProgressBar now={active.fraction * 100} aria-label="Export progress" />
          <Button size="sm" variant="outline-secondary" onClick={() => cancel(active)}>
            Cancel
          </Button>
        </>
      ) : (
        <div className="d-flex gap-2">
          <Choice label="File format" value={format} options={FORMATS} onChange={setFormat} />
          <Button
            size="sm"
            variant="outline-secondary"
            disabled={order.isPending}
            onClick={() => order.mutate(format, { onSuccess: saveWhenDone })}
          >
            Save the picture
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
          : "16 bit, with the resolution that makes it true size."}
      </p>
    </WorkCard>
  );
}
