import type { PictureFile } from "../../../../api/ops";
import { FilePick } from "../../../../ui/FilePick";
import type { EditorProps } from "./editorProps";

/** A further picture file. */
export function FileEditor({ op, onKeep, field, label }: EditorProps & { field: string; label: string }) {
  const file = op[field] as PictureFile | null;
  return <FilePick label={label} name={file?.name} onKept={(kept) => onKeep(kept.name, { [field]: kept })} />;
}
