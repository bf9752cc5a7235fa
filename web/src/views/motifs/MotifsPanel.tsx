import { useRef, useState } from "react";
import Form from "react-bootstrap/Form";
import Offcanvas from "react-bootstrap/Offcanvas";
import { can, type PieceView } from "../../api/client";
import { MOTIF_TYPE, useLayMotif, useMotifs, useMotifWork, type Motif } from "../../api/motifs";
import { useBenchStore } from "../../state/benchStore";
import { useOutlineStore } from "../../state/outlineStore";
import { Button } from "../../ui/Button";
import { lengthWithUnit } from "../../state/units";
import { MotifNames } from "./MotifNames";

interface Props {
  show: boolean;
  onHide: () => void;
  /** The piece on the bench; none on the shelf. */
  piece: PieceView | null;
}

/** Motifs to search, lay on the piece, keep, change and hand on. */
export function MotifsPanel({ show, onHide, piece }: Props) {
  const [words, setWords] = useState("");
  const [follow, setFollow] = useState(true);
  const motifs = useMotifs(words);
  const work = useMotifWork();
  const lay = useLayMotif(piece?.id ?? "");
  const packs = useRef<HTMLInputElement>(null);
  const refusal = [lay, work.keep, work.change, work.open, work.rename].find(({ error }) => error)?.error?.message;
  const usable = piece !== null && !can(piece, "skin");
  return (
    <Offcanvas show={show} onHide={onHide} placement="end" backdrop={false} scroll aria-label="Motifs">
      <Offcanvas.Header closeButton>
        <Offcanvas.Title as="h2" className="fs-5">
          Motifs
        </Offcanvas.Title>
      </Offcanvas.Header>
      <Offcanvas.Body className="d-flex flex-column gap-2">
        {refusal && (
          <p className="text-danger mb-0" role="alert">
            {refusal}
          </p>
        )}
        {usable && <KeepMotif piece={piece} onKeep={(order) => work.keep.mutate(order)} />}
        <Form.Control size="sm" type="text" placeholder="Search names and tags" aria-label="Search motifs" value={words} onChange={(event) => setWords(event.currentTarget.value)} />
        {piece && (
          <Form.Check
            id="motif-follow"
            type="switch"
            label="Pieces follow the motif when it changes"
            checked={follow}
            onChange={(event) => setFollow(event.currentTarget.checked)}
          />
        )}
        {motifs.data?.length === 0 && <p className="quiet-label">{words ? "No motif is called like that." : "No motifs yet. Keep what a piece shows, or open a pack."}</p>}
        <ul className="motif-list" aria-label="Motifs found">
          {motifs.data?.map((motif) => (
            <MotifRow
              key={motif.id}
              motif={motif}
              piece={piece}
              follow={follow}
              onLay={() => lay.mutate({ motif_id: motif.id, follow, x: 0.5, y: 0.5 })}
              onChange={() => piece && work.change.mutate({ motif: motif.id, piece: piece.id })}
              onRename={(name, tags) => work.rename.mutate({ id: motif.id, name, tags })}
              onDrop={() => work.drop.mutate(motif.id)}
            />
          ))}
        </ul>
        <div className="d-flex gap-2 mt-auto">
          <a className="btn btn-outline-secondary btn-sm" href={`/api/motif-pack.zip?words=${encodeURIComponent(words)}`} download>
            Save these as a pack
          </a>
          <Button size="sm" variant="outline-secondary" onClick={() => packs.current?.click()}>
            Open a pack
          </Button>
          <input
            ref={packs}
            type="file"
            hidden
            accept=".zip"
            aria-label="Motif pack"
            onChange={(event) => {
              const file = event.currentTarget.files?.[0];
              event.currentTarget.value = "";
              if (file) work.open.mutate(file);
            }}
          />
        </div>
      </Offcanvas.Body>
    </Offcanvas>
  );
}

function KeepMotif({ piece, onKeep }: { piece: PieceView; onKeep: (order: { piece_id: string; name: string; tags: string[]; chosen: number[] }) => void }) {
  const chosen = useOutlineStore((state) => state.chosen);
  const some = can(piece, "outlines") ? chosen : [];
  return (
    <MotifNames
      action={some.length ? `Keep the ${some.length} chosen` : "Keep this piece"}
      name={piece.document.title}
      tags={[]}
      onDone={(name, tags) => onKeep({ piece_id: piece.id, name, tags, chosen: [...some] })}
    />
  );
}

interface RowProps {
  motif: Motif;
  piece: PieceView | null;
  follow: boolean;
  onLay: () => void;
  onChange: () => void;
  onRename: (name: string, tags: string[]) => void;
  onDrop: () => void;
}

function MotifRow({ motif, piece, follow, onLay, onChange, onRename, onDrop }: RowProps) {
  const unit = useBenchStore((state) => state.unit);
  const [editing, setEditing] = useState(false);
  const laid = piece !== null && (motif.outlines || !can(piece, "outlines"));
  return (
    <li
      draggable={laid}
      onDragStart={(event) => event.dataTransfer.setData(MOTIF_TYPE, JSON.stringify({ motif_id: motif.id, follow }))}
      title={laid ? "Drag it onto the Plan, or press Lay on" : undefined}
    >
      <img src={`/api/motifs/${motif.id}/thumbnail.png?at=${encodeURIComponent(motif.changed)}`} alt="" />
      <div>
        <strong>{motif.name}</strong>
        <span className="quiet-label">
          {lengthWithUnit(motif.width_mm, unit)} × {lengthWithUnit(motif.height_mm, unit)}
          {motif.tags.length > 0 && ` · ${motif.tags.join(", ")}`}
        </span>
        {editing ? (
          <MotifNames
            action="Keep"
            name={motif.name}
            tags={motif.tags}
            onDone={(name, tags) => {
              onRename(name, tags);
              setEditing(false);
            }}
          />
        ) : (
          <div className="d-flex flex-wrap gap-1">
            {piece && (
              <Button size="sm" variant="outline-secondary" disabled={!laid} aria-label={`Lay on: ${motif.name}`} onClick={onLay}>
                Lay on
              </Button>
            )}
            {piece && !can(piece, "skin") && (
              <Button size="sm" variant="outline-secondary" aria-label={`Change ${motif.name} into this piece`} onClick={onChange}>
                Becomes this
              </Button>
            )}
            <button type="button" className="icon-button" aria-label={`Name and tags of ${motif.name}`} onClick={() => setEditing(true)}>
              <i className="bi bi-tag" aria-hidden="true" />
            </button>
            <button type="button" className="icon-button" aria-label={`Remove the motif ${motif.name}`} onClick={onDrop}>
              <i className="bi bi-x-lg" aria-hidden="true" />
            </button>
          </div>
        )}
      </div>
    </li>
  );
}
