import { useState } from "react";
import { Link } from "react-router";
import type { PieceView } from "../api/client";
import { useStep } from "../api/pieces";
import { HelpLink } from "../ui/HelpLink";
import { Choice } from "../ui/Choice";
import { MotifsPanel } from "../views/motifs/MotifsPanel";
import { useBenchStore } from "../state/benchStore";
import { JobsMenu } from "./JobsMenu";
import { StationSteps } from "./StationSteps";
import { VersionsMenu } from "./VersionsMenu";
import type { Editing } from "../state/useEditing";

const UNITS = [
  { value: "mm", label: "mm" },
  { value: "in", label: "in" },
] as const;

interface Props {
  piece: PieceView;
  editing: Editing;
  onShortcuts: () => void;
}

/** Title, stations, unit, undo and redo, jobs. */
export function BenchHead({ piece, editing, onShortcuts }: Props) {
  const unit = useBenchStore((state) => state.unit);
  const set = useBenchStore((state) => state.set);
  const [motifs, setMotifs] = useState(false);
  const undo = useStep(piece.id, "undo");
  const redo = useStep(piece.id, "redo");
  return (
    <header className="bench-head">
      <div className="head-left">
        <Link to="/" className="head-mark" aria-label="Back to the shelf" title="Back to the shelf">
          <img src="/mark.svg" alt="" />
        </Link>
        <TitleField key={piece.document.title} title={piece.document.title} editing={editing} />
      </div>
      <StationSteps stations={piece.stations} />
      <div className="head-right">
        <Choice label="Unit" value={unit} options={UNITS} onChange={(next) => set({ unit: next })} />
        <button
          type="button"
          className="icon-button"
          disabled={!piece.undoes || undo.isPending}
          onClick={() => undo.mutate()}
          aria-label="Undo"
          title={piece.undoes ? `Take back: ${piece.undoes}` : "Nothing to take back"}
        >
          <i className="bi bi-arrow-counterclockwise" aria-hidden="true" />
        </button>
        <button
          type="button"
          className="icon-button"
          disabled={!piece.redoes || redo.isPending}
          onClick={() => redo.mutate()}
          aria-label="Redo"
          title={piece.redoes ? `Bring back: ${piece.redoes}` : "Nothing to bring back"}
        >
          <i className="bi bi-arrow-clockwise" aria-hidden="true" />
        </button>
        <Link to={`/piece/${piece.id}/choose`} className="icon-button" aria-label="What else it can be, and recipes" title="What else it can be, and recipes">
          <i className="bi bi-grid-3x2-gap" aria-hidden="true" />
        </Link>
        <button type="button" className="icon-button" onClick={() => setMotifs(!motifs)} aria-label="Motifs" aria-pressed={motifs} title="Motifs">
          <i className="bi bi-flower1" aria-hidden="true" />
        </button>
        <MotifsPanel show={motifs} onHide={() => setMotifs(false)} piece={piece} />
        <VersionsMenu piece={piece} />
        <JobsMenu pieceId={piece.id} />
        <HelpLink kind={piece.kind} />
        <button type="button" className="icon-button" onClick={onShortcuts} aria-label="Keys" title="Keys (?)">
          <i className="bi bi-question-circle" aria-hidden="true" />
        </button>
      </div>
    </header>
  );
}

function TitleField({ title, editing }: { title: string; editing: Editing }) {
  const [typed, setTyped] = useState(title);
  const keep = () => {
    const next = typed.trim().slice(0, 120);
    if (next && next !== title) editing.keep(`Renamed to ${next}`.slice(0, 200), { title: next });
    else setTyped(title);
  };
  return (
    <input
      className="head-title"
      aria-label="Title of the piece"
      value={typed}
      maxLength={120}
      onChange={(event) => setTyped(event.currentTarget.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") setTyped(title);
      }}
    />
  );
}
