import type { ReactNode } from "react";
import Form from "react-bootstrap/Form";

interface Props {
  title: string;
  children: ReactNode;
  /** When given, the card can be switched off to see what it did. */
  on?: boolean;
  onSwitch?: (on: boolean) => void;
}

/** One step of a station. */
export function WorkCard({ title, children, on, onSwitch }: Props) {
  return (
    <section className={on === false ? "work-card is-off" : "work-card"} aria-label={title}>
      <h2>
        {title}
        {onSwitch && (
          <Form.Check
            type="switch"
            aria-label={`${title} on`}
            checked={on ?? true}
            onChange={(event) => onSwitch(event.currentTarget.checked)}
          />
        )}
      </h2>
      <div className="card-content">{children}</div>
    </section>
  );
}
