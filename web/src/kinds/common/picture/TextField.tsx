import { useId, useState } from "react";
import Form from "react-bootstrap/Form";

interface Props {
  label: string;
  value: string;
  lines: boolean;
  onDrag: (text: string) => void;
  onKeep: (text: string) => void;
}

/** Words that show at once and are kept when the field is left. */
export function TextField({ label, value, lines, onDrag, onKeep }: Props) {
  const id = useId();
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    if (typed !== null && typed !== value) onKeep(typed);
    setTyped(null);
  };
  return (
    <div>
      <label htmlFor={id} className="mb-1">
        {label}
      </label>
      <Form.Control
        id={id}
        size="sm"
        as={lines ? "textarea" : "input"}
        value={typed ?? value}
        onChange={(event) => {
          setTyped(event.currentTarget.value);
          onDrag(event.currentTarget.value);
        }}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === "Enter" && (!lines || event.ctrlKey)) keep();
        }}
      />
    </div>
  );
}
