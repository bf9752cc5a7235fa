import { useState } from "react";
import Dropdown from "react-bootstrap/Dropdown";
import Form from "react-bootstrap/Form";
import { useOpKinds } from "../../../api/ops";
import { FloatingMenu } from "../../../ui/FloatingMenu";

const GROUPS = {
  frame: "Frame",
  tone: "Tone",
  purify: "Purify",
  soften: "Soften",
  retouch: "Retouch",
  "cut out": "Cut out",
  compose: "Lay over",
  tile: "Repeat",
} as const;

/** The menu of all kinds of steps, in groups; typing narrows it. */
export function AddOp({ onAdd }: { onAdd: (kind: string) => void }) {
  const kinds = useOpKinds();
  const [wanted, setWanted] = useState("");
  const words = wanted.trim().toLowerCase();
  const fits = kinds.filter((kind) => `${kind.title} ${kind.hint}`.toLowerCase().includes(words));
  const add = (kind: string) => {
    setWanted("");
    onAdd(kind);
  };
  return (
    <Dropdown className="add-op" onToggle={() => setWanted("")}>
      <Dropdown.Toggle variant="outline-secondary" size="sm" className="w-100">
        <i className="bi bi-plus-lg me-1" aria-hidden="true" />
        Add a step
      </Dropdown.Toggle>
      <FloatingMenu className="add-op-menu">
        <div className="px-2 pb-1">
          <Form.Control
            size="sm"
            type="text"
            autoFocus
            placeholder="What should be done?"
            aria-label="Find a step"
            value={wanted}
            onChange={(event) => setWanted(event.currentTarget.value)}
            onKeyDown={(event) => {
              const first = fits[0];
              if (event.key === "Enter" && words && first) add(first.kind);
            }}
          />
        </div>
        {Object.entries(GROUPS).map(([group, name]) => {
          const listed = fits.filter((kind) => kind.group === group);
          if (listed.length === 0) return null;
          return (
            <div key={group} role="group" aria-label={name}>
              <Dropdown.Header>{name}</Dropdown.Header>
              {listed.map((kind) => (
                <Dropdown.Item key={kind.kind} as="button" type="button" title={kind.hint} onClick={() => add(kind.kind)}>
                  {kind.title}
                </Dropdown.Item>
              ))}
            </div>
          );
        })}
        {fits.length === 0 && <p className="quiet-label px-3 mb-1">No step does that; try another word.</p>}
      </FloatingMenu>
    </Dropdown>
  );
}
