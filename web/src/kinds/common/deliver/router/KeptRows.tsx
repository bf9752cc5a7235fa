import { Button } from "../../../../ui/Button";

interface Props {
  title: string;
  /** What they are kept in, for names of buttons. */
  place: string;
  rows: readonly { id: number; name: string; taken: boolean }[];
  onTake: (at: number) => void;
  onDrop: (id: number) => void;
}

/** What a person keeps beside pieces: taken in a press, dropped in a press. */
export function KeptRows({ title, place, rows, onTake, onDrop }: Props) {
  return (
    <fieldset className="rack">
      <legend>{title}</legend>
      {rows.map(({ id, name, taken }, at) => (
        <div key={id} className="d-flex align-items-center gap-1">
          <span className="flex-grow-1">{name}</span>
          <Button size="sm" variant="outline-secondary" disabled={taken} onClick={() => onTake(at)} aria-label={`Take ${name}`}>
            Take
          </Button>
          <button type="button" className="icon-button" aria-label={`Drop ${name} from ${place}`} onClick={() => onDrop(id)}>
            <i className="bi bi-trash3" aria-hidden="true" />
          </button>
        </div>
      ))}
    </fieldset>
  );
}
