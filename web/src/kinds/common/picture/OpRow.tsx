import { useEffect, useRef, type KeyboardEvent } from "react";
import Dropdown from "react-bootstrap/Dropdown";
import Form from "react-bootstrap/Form";
import type { PictureOp } from "../../../api/ops";
import type { Thumb } from "../../../api/preview";
import { OpBody } from "./OpBody";
import { OpThumb } from "./OpThumb";
import type { OpsEditing } from "../ops/useOps";
import { FloatingMenu } from "../../../ui/FloatingMenu";

interface Props {
  pieceId: string;
  revision: number;
  op: PictureOp;
  place: number;
  count: number;
  editing: OpsEditing;
  open: boolean;
  before: Thumb | undefined;
  after: Thumb | undefined;
  failed: string | undefined;
  /** Whether what is dragged would come to stand here. */
  marked: boolean;
  onHold: () => void;
  onOver: () => void;
  onLetGo: () => void;
}

/** One op: what it did, its switch, and, when open, its parameters. */
export function OpRow({ op, place, count, editing, open, before, after, failed, marked, ...rest }: Props) {
  const kind = editing.kindOf(op);
  const title = editing.titleOf(op);
  const onKeyDown = (event: KeyboardEvent) => {
    if (!event.altKey || (event.key !== "ArrowUp" && event.key !== "ArrowDown")) return;
    event.preventDefault();
    const to = place + (event.key === "ArrowUp" ? -1 : 1);
    if (to >= 0 && to < count) editing.move(op.id, to);
  };
  const state = `${open ? " is-open" : ""}${op.on ? "" : " is-off"}${marked ? " is-marked" : ""}`;
  const row = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (open) row.current?.scrollIntoView({ block: "nearest" });
  }, [open]);
  return (
    <li ref={row} className={`op-row${state}`} aria-label={`${place + 1}. ${title}`} onDragOver={rest.onOver}>
      <div className="op-head" draggable onDragStart={rest.onHold} onDragEnd={rest.onLetGo}>
        <i className="bi bi-grip-vertical op-grip" aria-hidden="true" title="Drag to another place" />
        <OpThumb thumb={before} label={`Before ${title.toLowerCase()}`} />
        <i className="bi bi-chevron-right op-arrow" aria-hidden="true" />
        <OpThumb thumb={failed ? undefined : after} label={`After ${title.toLowerCase()}`} />
        <button
          type="button"
          className="op-title"
          aria-expanded={open}
          title="Alt and the arrow keys move this step"
          onClick={() => editing.open(open ? null : op)}
          onKeyDown={onKeyDown}
        >
          {title}
        </button>
        <Form.Check
          type="switch"
          aria-label={`${title} on`}
          checked={op.on}
          disabled={!kind}
          onChange={(event) => {
            const on = event.currentTarget.checked;
            editing.keep(op.id, on ? "switched on" : "switched off", { on });
          }}
        />
        <Dropdown align="end">
          <Dropdown.Toggle as="button" className="icon-button" aria-label={`More for ${title}`}>
            <i className="bi bi-three-dots-vertical" aria-hidden="true" />
          </Dropdown.Toggle>
          <FloatingMenu>
            <Dropdown.Item as="button" onClick={() => editing.copy(op.id)}>
              Duplicate
            </Dropdown.Item>
            <Dropdown.Item as="button" disabled={place === 0} onClick={() => editing.move(op.id, place - 1)}>
              Move up
            </Dropdown.Item>
            <Dropdown.Item as="button" disabled={place === count - 1} onClick={() => editing.move(op.id, place + 1)}>
              Move down
            </Dropdown.Item>
            <Dropdown.Item as="button" onClick={() => editing.remove(op.id)}>
              Remove
            </Dropdown.Item>
          </FloatingMenu>
        </Dropdown>
      </div>
      {failed && (
        <p className="op-failed" role="alert">
          <i className="bi bi-x-octagon-fill me-1" aria-hidden="true" />
          {failed}
        </p>
      )}
      {open && <OpBody pieceId={rest.pieceId} revision={rest.revision} op={op} kind={kind} editing={editing} />}
    </li>
  );
}
