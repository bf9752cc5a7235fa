import { useState } from "react";
import Form from "react-bootstrap/Form";
import { useFilm } from "../../../api/pieces";
import { useCancel } from "../../../state/useCancel";
import { saveFile, useFileJob } from "../../../state/useFileJob";
import { Button } from "../../../ui/Button";
import { NumberField } from "../../../ui/NumberField";
import { JobProgress } from "../../../ui/JobProgress";
import { WorkCard } from "../../../ui/WorkCard";
import type { AnyStationProps } from "../stationProps";

type FilmFormat = "mp4" | "webp" | "gif" | "png";

const FORMATS: Record<FilmFormat, string> = { mp4: "MP4 film", webp: "Moving WebP", gif: "Moving GIF", png: "PNG, a picture a frame" };

/** The finished solid turned once round, as a film to save. */
export function TurntableCard({ pieceId, revision }: Pick<AnyStationProps, "pieceId" | "revision">) {
  const [format, setFormat] = useState<FilmFormat>("mp4");
  const [seconds, setSeconds] = useState(6);
  const film = useFilm(pieceId);
  const cancel = useCancel();
  const { newest, active, saveWhenDone } = useFileJob(pieceId, revision, "turntable");
  const done = newest?.state === "done" ? newest.film : undefined;
  const refusal = film.error?.message ?? (newest && ["failed", "interrupted"].includes(newest.state) ? newest.message : "");
  return (
    <WorkCard title="Turntable">
      <div className="field-pairs">
        <Form.Select size="sm" aria-label="Format of the film" value={format} onChange={({ currentTarget }) => setFormat(currentTarget.value as FilmFormat)}>
          {Object.entries(FORMATS).map(([each, words]) => (
            <option key={each} value={each}>
              {words}
            </option>
          ))}
        </Form.Select>
        <NumberField label="Once round" unit="s" value={seconds} lowest={1} highest={30} step={0.5} onKeep={setSeconds} />
      </div>
      {active ? (
        <JobProgress stage={active.stage} fraction={active.fraction} label="Progress of the turntable" onCancel={() => cancel(active)} />
      ) : (
        <Button size="sm" variant="outline-secondary" disabled={film.isPending} onClick={() => film.mutate({ format, seconds }, { onSuccess: saveWhenDone })}>
          Film it and save
        </Button>
      )}
      {refusal && (
        <p className="measure-refusal" role="alert">
          {refusal}
        </p>
      )}
      {done && newest && (
        <p className="quiet-label">
          <button type="button" className="btn btn-link btn-sm p-0" onClick={() => saveFile(newest.id)}>
            {done.file_name}
          </button>
          {`, ${done.frames} frames of ${done.size_px.join(" × ")} pixels`}
        </p>
      )}
    </WorkCard>
  );
}
