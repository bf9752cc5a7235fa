import { useId, useState } from "react";
import Form from "react-bootstrap/Form";
import { addPicture, type PictureFile } from "../api/ops";

interface Props {
  label: string;
  /** What is chosen now. */
  name: string | undefined;
  onKept: (file: PictureFile) => void;
}

/** A further picture file: taken in by the server, or refused in one sentence. */
export function FilePick({ label, name, onKept }: Props) {
  const id = useId();
  const [busy, setBusy] = useState(false);
  const [refusal, setRefusal] = useState<string | null>(null);
  const take = (chosen: File) => {
    setBusy(true);
    setRefusal(null);
    addPicture(chosen)
      .then(onKept, (error: Error) => setRefusal(error.message))
      .finally(() => setBusy(false));
  };
  return (
    <div>
      <label htmlFor={id} className="mb-1">
        {label}
        {name && <span className="quiet-label"> · {name}</span>}
      </label>
      <Form.Control
        id={id}
        type="file"
        size="sm"
        accept="image/*,.tif,.tiff"
        disabled={busy}
        onChange={(event) => {
          const chosen = (event.currentTarget as HTMLInputElement).files?.[0];
          if (chosen) take(chosen);
        }}
      />
      {refusal && (
        <p className="measure-refusal" role="alert">
          {refusal}
        </p>
      )}
    </div>
  );
}
