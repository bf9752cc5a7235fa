import { useRef, useState } from "react";
import Dropdown from "react-bootstrap/Dropdown";
import type { WorkedDocument } from "../../../api/client";
import { addDecorationFile, type Decoration } from "../../../api/decorations";
import { useMotifs, type Motif } from "../../../api/motifs";
import { Button } from "../../../ui/Button";
import { freshDecoration, upOf } from "./decorations";
import { useDecorationParts } from "./useDecorationParts";
import { useDecorStore } from "../../../state/decorStore";
import { longestMm } from "../workedSize";
import { useModel } from "../../../state/previews";
import { FloatingMenu } from "../../../ui/FloatingMenu";

/** How much of a model's longest side a decoration takes at first. */
const FIRST_SHARE = 0.25;

/** Choose what is laid on: a motif of the library, which is followed, or a file of one's own. */
export function ArtPicker({ document }: { document: WorkedDocument }) {
  const motifs = useMotifs("").data ?? [];
  const files = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const fresh = useDecorStore((state) => state.fresh);
  const set = useDecorStore((state) => state.set);
  const part = useDecorationParts().decoration;
  const standing = (useModel()?.standing ?? false);
  const take = (art: Decoration["art"], widthMm: number | null) => {
    const width = Number((widthMm ?? FIRST_SHARE * longestMm(document)).toPrecision(2));
    set({ fresh: freshDecoration(part, art, width, upOf(standing)), tool: "lay", chosen: null, refusal: null });
  };
  if (fresh)
    return (
      <div className="decor-waiting" role="status">
        <span>
          <strong>{fresh.art.name}</strong> follows the pointer. Press on the model to lay it there.
        </span>
        <Button size="sm" variant="outline-secondary" onClick={() => set({ fresh: null, tool: null, placement: null, placed: null })}>
          Do not lay it
        </Button>
      </div>
    );
  return (
    <div className="d-flex gap-2">
      <Dropdown className="flex-grow-1">
        <Dropdown.Toggle variant="outline-secondary" size="sm" className="w-100" disabled={motifs.length === 0}>
          <i className="bi bi-plus-lg me-1" aria-hidden="true" />
          Lay a motif on
        </Dropdown.Toggle>
        <FloatingMenu className="decor-motifs">
          {motifs.map((motif) => (
            <Dropdown.Item key={motif.id} as="button" type="button" onClick={() => take(artOf(motif), Math.min(motif.width_mm, FIRST_SHARE * longestMm(document)))}>
              <img src={`/api/motifs/${motif.id}/thumbnail.png?at=${encodeURIComponent(motif.changed)}`} alt="" />
              {motif.name}
            </Dropdown.Item>
          ))}
        </FloatingMenu>
      </Dropdown>
      <Button size="sm" variant="outline-secondary" disabled={busy} onClick={() => files.current?.click()}>
        From a file
      </Button>
      <input
        ref={files}
        type="file"
        hidden
        aria-label="Picture or drawing to lay on"
        accept="image/*,.tif,.tiff,.svg,.dxf"
        onChange={(event) => {
          const file = event.currentTarget.files?.[0];
          event.currentTarget.value = "";
          if (!file) return;
          setBusy(true);
          addDecorationFile(file)
            .then(
              (art) => take({ ...art, motif: null }, null),
              (error: Error) => set({ refusal: error.message }),
            )
            .finally(() => setBusy(false));
        }}
      />
    </div>
  );
}

function artOf(motif: Motif): Decoration["art"] {
  return { kind: motif.drawing_blob ? "outline" : "picture", blob: motif.drawing_blob ?? motif.picture_blob, name: motif.name, motif: motif.id };
}
