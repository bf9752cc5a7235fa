import { useId, useState } from "react";
import Form from "react-bootstrap/Form";
import { addPicture, type PictureFile } from "../../../api/ops";
import type { EditorProps } from "./editorProps";

/** A further picture file. */
export function FileEditor({ op, onKeep, field, label }: EditorProps & { field: string; label: string }) {
  const id = useId();
  const [busy, setBusy] = useState(false);
  const [refusal, setRefusal] = useState<string | null>(null);
  const file = op[field] as PictureFile | null;
  const take = (chosen: File) => {
    setBusy(true);
    setRefusal(null);
    addPicture(chosen)
      .then(
        (kept) => onKeep(kept.name, { [field]: kept }),
        (error: Error) => setRefusal(error.message),
      )
      .finally(() => setBusy(false));
  };
  return (
    <div>
      <label htmlFor={id} className="mb-1">
        {label}
        {file && <span className="quiet-label"> · {file.name}</span>}
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
