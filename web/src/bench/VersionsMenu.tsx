import { useState } from "react";
import Dropdown from "react-bootstrap/Dropdown";
import Form from "react-bootstrap/Form";
import type { PieceView } from "../api/client";
import { useVersions } from "../api/versions";
import { Button } from "../ui/Button";
import { useBenchStore } from "../state/benchStore";

/** Named states of the piece: look at one beside today's, or bring it back. */
export function VersionsMenu({ piece }: { piece: PieceView }) {
  const { versions, name, forget, restore } = useVersions(piece.id);
  const beside = useBenchStore((state) => state.beside);
  const set = useBenchStore((state) => state.set);
  const [typed, setTyped] = useState("");
  const keep = () => {
    const text = typed.trim();
    if (text) name.mutate(text, { onSuccess: () => setTyped("") });
  };
  return (
    <Dropdown align="end" autoClose="outside">
      <Dropdown.Toggle as="button" className="icon-button" aria-label="Versions" title="Versions">
        <i className="bi bi-bookmark" aria-hidden="true" />
      </Dropdown.Toggle>
      <Dropdown.Menu style={{ width: 340 }} className="px-3 py-2">
        <div className="d-flex gap-2">
          <Form.Control
            size="sm"
            type="text"
            placeholder="What is today's state called?"
            aria-label="Name of the version"
            value={typed}
            maxLength={120}
            onChange={(event) => setTyped(event.currentTarget.value)}
            onKeyDown={(event) => event.key === "Enter" && keep()}
          />
          <Button size="sm" onClick={keep} disabled={!typed.trim()}>
            Keep
          </Button>
        </div>
        {versions.length === 0 && <p className="quiet-label mt-2 mb-0">A version can be looked at beside today's state, and brought back.</p>}
        {versions.map((version) => {
          const shown = beside?.version === version.id;
          return (
            <div key={version.id} className="d-flex align-items-center gap-1 py-1">
              <span className="flex-grow-1 text-truncate">{version.name}</span>
              <button
                type="button"
                className="icon-button"
                aria-pressed={shown}
                onClick={() => set({ beside: shown ? null : { version: version.id, name: version.name } })}
              >
                {shown ? "Away" : "Beside"}
              </button>
              <button
                type="button"
                className="icon-button"
                disabled={restore.isPending}
                onClick={() => restore.mutate({ id: version.id, base: piece.revision })}
              >
                Bring back
              </button>
              <button type="button" className="icon-button" aria-label={`Forget ${version.name}`} onClick={() => forget.mutate(version.id)}>
                <i className="bi bi-x-lg" aria-hidden="true" />
              </button>
            </div>
          );
        })}
      </Dropdown.Menu>
    </Dropdown>
  );
}
