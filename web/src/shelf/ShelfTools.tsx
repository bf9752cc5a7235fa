import Form from "react-bootstrap/Form";
import type { PieceCard } from "../api/client";
import { useShelfStore, type Order } from "../state/shelfStore";
import { Button } from "../ui/Button";
import { tagsOf } from "./arranged";

const ORDERS: readonly [Order, string][] = [
  ["changed", "Last changed"],
  ["begun", "Last begun"],
  ["title", "Title"],
  ["kind", "Kind"],
];

/** Look for pieces, by words and tags, order them, and begin to choose several. */
export function ShelfTools({ pieces }: { pieces: readonly PieceCard[] }) {
  const { words, tag, order, chosen, set } = useShelfStore();
  const tags = tagsOf(pieces);
  return (
    <div className="shelf-find" role="search">
      <Form.Control
        size="sm"
        type="text"
        className="shelf-words"
        placeholder="Look for pieces"
        aria-label="Look for pieces"
        value={words}
        onChange={(event) => set({ words: event.currentTarget.value })}
      />
      <Form.Select size="sm" className="shelf-order" aria-label="Order" value={order} onChange={(event) => set({ order: event.currentTarget.value as Order })}>
        {ORDERS.map(([value, label]) => (
          <option key={value} value={value}>
            {label}
          </option>
        ))}
      </Form.Select>
      <Button size="sm" variant="outline-secondary" aria-pressed={chosen !== null} onClick={() => set({ chosen: chosen ? null : new Set() })}>
        {chosen ? "Done choosing" : "Choose several"}
      </Button>
      {tags.map(([name, count]) => (
        <button key={name} type="button" className="shelf-tag" aria-pressed={tag === name} onClick={() => set({ tag: tag === name ? null : name })}>
          {name} <span className="quiet-label">{count}</span>
        </button>
      ))}
    </div>
  );
}
