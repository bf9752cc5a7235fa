import type { ReactNode } from "react";
import Form from "react-bootstrap/Form";

interface Props {
  title: string;
  on: boolean;
  onSwitch: (on: boolean) => void;
  onRemove: () => void;
  removeLabel: string;
  /** Further buttons before the one that removes. */
  children?: ReactNode;
}

/** The head of something in a list that can be switched off and removed. */
export function StepHead({ title, on, onSwitch, onRemove, removeLabel, children }: Props) {
  return (
    <div className="d-flex align-items-center gap-1">
      <Form.Check type="switch" aria-label={`${title} on`} checked={on} onChange={(event) => onSwitch(event.currentTarget.checked)} />
      <strong className="flex-grow-1 step-title" title={title}>
        {title}
      </strong>
      {children}
      <button type="button" className="icon-button" aria-label={removeLabel} onClick={onRemove}>
        <i className="bi bi-x-lg" aria-hidden="true" />
      </button>
    </div>
  );
}
