import { useRef, useState } from "react";
import Dropdown from "react-bootstrap/Dropdown";
import type { LaidRelief, PieceView } from "../../../../api/client";
import { useMotifs } from "../../../../api/motifs";
import { addPicture } from "../../../../api/ops";
import { useAddPart, useLayRelief, useShelf } from "../../../../api/pieces";
import { useBenchStore } from "../../../../state/benchStore";
import { usePartSchemas } from "../../../../state/partSchemas";
import { Button } from "../../../../ui/Button";
import { FloatingMenu } from "../../../../ui/FloatingMenu";
import { WorkCard } from "../../../../ui/WorkCard";
import type { StationProps } from "../../../common/stationProps";
import { movedLaid, withLaid } from "./laidEdits";
import { LaidRow } from "./LaidRow";

/** Reliefs laid on the heights: pictures, motifs and other pieces, each with a height and a place of its own. */
export function LaidCard({ pieceId, revision, document, editing }: StationProps) {
  const part = usePartSchemas().named("LaidRelief");
  const opId = useBenchStore((state) => state.opId);
  const set = useBenchStore((state) => state.set);
  const motifs = useMotifs("").data ?? [];
  const shelf = useShelf();
  const lay = useLayRelief(pieceId);
  const add = useAddPart(pieceId);
  const files = useRef<HTMLInputElement>(null);
  const [refusal, setRefusal] = useState<string | null>(null);
  const reliefs = document.height.laid;
  const busy = lay.isPending || add.isPending;
  const failed = refusal ?? lay.error?.message ?? add.error?.message;
  const keep = (label: string, laid: readonly LaidRelief[]) => editing.keep(label.slice(0, 200), { height: { laid } });
  // What was laid last is the one that is worked on.
  const chosen = { onSuccess: (piece: PieceView) => set({ opId: "height" in piece.document ? (piece.document.height.laid.at(-1)?.id ?? null) : null }) };
  return (
    <WorkCard title={part.heading}>
      {reliefs.length === 0 && <p className="quiet-label">{part.hint}</p>}
      {reliefs.map((relief, at) => (
        <LaidRow
          key={relief.id}
          relief={relief}
          part={part}
          open={opId === relief.id}
          first={at === 0}
          last={at === reliefs.length - 1}
          onOpen={() => set({ opId: opId === relief.id ? null : relief.id })}
          onDrag={(change) => editing.drag({ height: { laid: withLaid(reliefs, relief.id, change) } })}
          onKeep={(what, change) => keep(`${relief.name}, ${what}`, withLaid(reliefs, relief.id, change))}
          onMove={(by) => keep(`${relief.name} moved in the order`, movedLaid(reliefs, relief.id, by))}
          onRemove={() => keep(`${relief.name} removed`, reliefs.filter((other) => other.id !== relief.id))}
        />
      ))}
      {failed && (
        <p className="measure-refusal" role="alert">
          {failed}
        </p>
      )}
      <div className="d-flex gap-2 flex-wrap">
        <Button size="sm" variant="outline-secondary" disabled={busy} onClick={() => files.current?.click()}>
          Lay a picture
        </Button>
        <Dropdown>
          <Dropdown.Toggle variant="outline-secondary" size="sm" disabled={busy || motifs.length === 0}>
            A motif
          </Dropdown.Toggle>
          <FloatingMenu className="decor-motifs">
            {motifs.map((motif) => (
              <Dropdown.Item key={motif.id} as="button" type="button" onClick={() => lay.mutate({ base: revision, blob: motif.picture_blob, name: motif.name, motif: motif.id }, chosen)}>
                <img src={`/api/motifs/${motif.id}/thumbnail.png?at=${encodeURIComponent(motif.changed)}`} alt="" />
                {motif.name}
              </Dropdown.Item>
            ))}
          </FloatingMenu>
        </Dropdown>
        <Dropdown>
          <Dropdown.Toggle variant="outline-secondary" size="sm" disabled={busy}>
            A piece
          </Dropdown.Toggle>
          <FloatingMenu className="piece-menu">
            {shelf.data
              ?.filter(({ id }) => id !== pieceId)
              .map((piece) => (
                <Dropdown.Item key={piece.id} as="button" type="button" onClick={() => add.mutate({ base: revision, piece_id: piece.id }, chosen)}>
                  {piece.title} <span className="quiet-label">{piece.body}</span>
                </Dropdown.Item>
              ))}
          </FloatingMenu>
        </Dropdown>
        <input
          ref={files}
          type="file"
          hidden
          aria-label="Picture to lay on the heights"
          accept="image/*,.tif,.tiff"
          onChange={(event) => {
            const file = event.currentTarget.files?.[0];
            event.currentTarget.value = "";
            if (!file) return;
            setRefusal(null);
            addPicture(file).then(
              ({ blob, name }) => lay.mutate({ base: revision, blob, name, motif: null }, chosen),
              (error: Error) => setRefusal(error.message),
            );
          }}
        />
      </div>
    </WorkCard>
  );
}
