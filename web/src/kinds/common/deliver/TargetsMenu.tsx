import { useState } from "react";
import Dropdown from "react-bootstrap/Dropdown";
import Form from "react-bootstrap/Form";
import type { AnyDocument, LightTarget, LightTargetEdit } from "../../../api/client";
import { useTargets } from "../../../api/targets";
import type { Editing } from "../../../state/useEditing";
import { Button } from "../../../ui/Button";
import { FloatingMenu } from "../../../ui/FloatingMenu";

type Light = AnyDocument["light"];

const FIELD = { triangles: "triangles", tolerance: "tolerance_mm", bytes: "megabytes" } as const;
/** Ready targets: choose one, keep what is set now as another, set one to what is set now, drop one. */
export function TargetsMenu({ light, editing }: { light: Light; editing: Editing }) {
  const { targets, add, change, drop } = useTargets();
  const [typed, setTyped] = useState("");
  const now = { by: light.by, amount: light[FIELD[light.by]] };
  const choose = (target: LightTarget) =>
    editing.keep(target.name, { light: { on: true, by: target.by, [FIELD[target.by]]: target.amount } });
  const keep = () => {
    const name = typed.trim();
    if (name) add.mutate({ name, ...now }, { onSuccess: () => setTyped("") });
  };
  return (
    <Dropdown autoClose="outside">
      <Dropdown.Toggle variant="outline-secondary" size="sm" className="w-100">
        Ready targets
      </Dropdown.Toggle>
      <FloatingMenu style={{ width: 330 }} className="px-3 py-2">
        {targets.map((target) => (
          <div key={target.id} className="d-flex align-items-center gap-1 py-1">
            <button type="button" className="icon-button flex-grow-1 text-start" onClick={() => choose(target)}>
              {target.name}
              <span className="quiet-label"> · {amountOf(target)}</span>
            </button>
            <button
              type="button"
              className="icon-button"
              title="Set this target to what is set now"
              aria-label={`Set ${target.name} to what is set now`}
              onClick={() => change.mutate({ ...target, ...now })}
            >
              <i className="bi bi-pencil" aria-hidden="true" />
            </button>
            <button type="button" className="icon-button" aria-label={`Drop ${target.name}`} onClick={() => drop.mutate(target.id)}>
              <i className="bi bi-x-lg" aria-hidden="true" />
            </button>
          </div>
        ))}
        <div className="d-flex gap-2 pt-1">
          <Form.Control
            size="sm"
            type="text"
            placeholder="Keep what is set now as …"
            aria-label="Name of a new target"
            value={typed}
            maxLength={120}
            onChange={(event) => setTyped(event.currentTarget.value)}
            onKeyDown={(event) => event.key === "Enter" && keep()}
          />
          <Button size="sm" onClick={keep} disabled={!typed.trim()}>
            Keep
          </Button>
        </div>
      </FloatingMenu>
    </Dropdown>
  );
}

/** A target's amount with its unit. */
export function amountOf({ by, amount }: LightTargetEdit): string {
  if (by === "triangles") return `${amount.toLocaleString("en")} triangles`;
  return by === "tolerance" ? `${amount} mm off` : `${amount} MB`;
}
