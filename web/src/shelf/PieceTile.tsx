import { useQueryClient } from "@tanstack/react-query";
import Dropdown from "react-bootstrap/Dropdown";
import { Link } from "react-router";
import { answered, api, type PieceCard } from "../api/client";
import { keys } from "../api/pieces";
import { useBenchStore } from "../state/benchStore";
import { formatLength } from "../state/units";
import { ago } from "./ago";
import { useRemoved } from "../state/removedStore";

interface Props {
  piece: PieceCard;
  onRefusal: (sentence: string) => void;
}

/** One piece: how it looks, what it is, when it changed. */
export function PieceTile({ piece, onRefusal }: Props) {
  const unit = useBenchStore((state) => state.unit);
  const client = useQueryClient();
  const size = piece.size_mm.map((side) => formatLength(Math.round(side * 10) / 10, unit)).join(" × ");
  const params = { path: { piece_id: piece.id } };
  const run = (work: Promise<unknown>) =>
    void work.then(
      () => client.invalidateQueries({ queryKey: keys.shelf }),
      (error: Error) => onRefusal(error.message),
    );
  return (
    <article className="tile">
      <Link to={`/piece/${piece.id}`}>
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
            <span>{piece.maker}</span>
            <time dateTime={piece.changed}>{ago(new Date(piece.changed), new Date())}</time>
          </div>
        </div>
      </Link>
      <Dropdown align="end" className="tile-menu">
        <Dropdown.Toggle as="button" className="icon-button" aria-label={`More for ${piece.title}`}>
          <i className="bi bi-three-dots" aria-hidden="true" />
        </Dropdown.Toggle>
        <Dropdown.Menu>
          <Dropdown.Item onClick={() => run(answered(api.POST("/api/pieces/{piece_id}/copy", { params })))}>
            Duplicate
          </Dropdown.Item>
          <Dropdown.Item
            onClick={() => {
              run(answered(api.DELETE("/api/pieces/{piece_id}", { params })));
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
