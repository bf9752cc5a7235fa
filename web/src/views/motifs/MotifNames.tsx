import { useState } from "react";
import Form from "react-bootstrap/Form";
import { Button } from "../../ui/Button";
import { tagsIn } from "./tags";

interface Props {
  action: string;
  name: string;
  tags: readonly string[];
  onDone: (name: string, tags: string[]) => void;
}

/** A motif's name and its tags, with commas between. */
export function MotifNames({ action, name, tags, onDone }: Props) {
  const [called, setCalled] = useState(name);
  const [typed, setTyped] = useState(tags.join(", "));
  return (
    <form
      className="d-flex flex-column gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (called.trim()) onDone(called.trim(), tagsIn(typed));
      }}
    >
      <Form.Control size="sm" type="text" aria-label="Name of the motif" value={called} maxLength={120} onChange={(event) => setCalled(event.currentTarget.value)} />
      <div className="d-flex gap-1">
        <Form.Control size="sm" type="text" placeholder="Tags, with commas between" aria-label="Tags of the motif" value={typed} onChange={(event) => setTyped(event.currentTarget.value)} />
        <Button size="sm" type="submit" disabled={!called.trim()} className="text-nowrap">
          {action}
        </Button>
      </div>
    </form>
  );
}
