import { useQueryClient } from "@tanstack/react-query";
import Dropdown from "react-bootstrap/Dropdown";
import { Link } from "react-router";
import type { PieceCard } from "../api/client";
import { keys, onShelf } from "../api/pieces";
import { useShelfStore } from "../state/shelfStore";
import { useBenchStore } from "../state/benchStore";
import { formatLength } from "../state/units";
import { ago } from "./ago";
import { useRemoved } from "../state/removedStore";

interface Props {
  piece: PieceCard;
  /** Whether it is chosen, while several are being chosen. */
  chosen: boolean | null;
  onMould: () => void;
  onRefusal: (sentence: string) => void;
}

/** One piece: how it looks, what it is, when it changed. */
export function PieceTile({ piece, chosen, onMould, onRefusal }: Props) {
  const unit = useBenchStore((state) => state.unit);
  const client = useQueryClient();
  const size = piece.size_mm.map((side) => formatLength(Math.round(side * 10) / 10, unit)).join(" × ");
  const run = (work: Promise<unknown>) =>
    void work.then(
      () => client.invalidateQueries({ queryKey: keys.shelf }),
      (error: Error) => onRefusal(error.message),
    );
  return (
    <article className={chosen ? "tile is-chosen" : "tile"}>
      {chosen !== null && (
        <label className="tile-choice">
          <input type="checkbox" checked={chosen} aria-label={`Choose ${piece.title}`} onChange={() => toggle(piece.id)} />
        </label>
      )}
      <Link
        to={`/piece/${piece.id}`}
        onClick={(event) => {
          if (chosen === null) return;
          event.preventDefault();
          toggle(piece.id);
        }}
      >
        <img
          className="tile-picture"
          src={`/api/pieces/${piece.id}/thumbnail.png?revision=${piece.revision}`}
          alt=""
          loading="lazy"
        />
        <div className="tile-board">
          <div className="tile-title">{piece.title}</div>
          <div className="tile-facts">
            <span>
              {piece.body}, {size} {unit}
            </span>
          </div>
          <div className="tile-facts">
            <span className="text-truncate">{piece.tags.length ? piece.tags.join(", ") : piece.maker}</span>
            <time dateTime={piece.changed}>{ago(new Date(piece.changed), new Date())}</time>
          </div>
        </div>
      </Link>
      <Dropdown align="end" className="tile-menu">
        <Dropdown.Toggle as="button" className="icon-button" aria-label={`More for ${piece.title}`}>
          <i className="bi bi-three-dots" aria-hidden="true" />
        </Dropdown.Toggle>
        <Dropdown.Menu>
          <Dropdown.Item onClick={() => run(onShelf.copy(piece.id))}>
            Duplicate
          </Dropdown.Item>
          <Dropdown.Item onClick={onMould}>Make a mould of it</Dropdown.Item>
          <Dropdown.Item href={`/api/pieces/${piece.id}/file`} download>
            Save as a file
          </Dropdown.Item>
          <Dropdown.Item
            onClick={() => {
              run(onShelf.remove(piece.id));
              useRemoved.getState().set(piece);
            }}
          >
            Take off the shelf
          </Dropdown.Item>
        </Dropdown.Menu>
      </Dropdown>
    </article>
  );
}

function toggle(id: string): void {
  const { chosen, set } = useShelfStore.getState();
  const next = new Set(chosen);
  if (!next.delete(id)) next.add(id);
  set({ chosen: next });
}
