import { useState } from "react";
import type { Spot } from "../../../../state/benchStore";

interface Props {
  /** Where it stands, screen pixels. */
  at: Spot;
  text: string;
  onKeep: (text: string) => void;
  onClose: () => void;
}

const WIDE = 240;
const TALL = 64;

/** The words of a lettering, typed where they stand. Enter keeps them, with Shift it begins a line; Escape leaves them. */
export function WordsTool({ at, text, onKeep, onClose }: Props) {
  const [typed, setTyped] = useState(text);
  const keep = () => {
    if (typed.trim() && typed !== text) onKeep(typed);
    onClose();
  };
  return (
    <foreignObject x={at.x - WIDE / 2} y={at.y + 16} width={WIDE} height={TALL} onPointerDown={(event) => event.stopPropagation()}>
      <textarea
        className="words-here"
        aria-label="Words of the lettering"
        autoFocus
        rows={2}
        maxLength={400}
        value={typed}
        onChange={(event) => setTyped(event.currentTarget.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Enter" && !event.shiftKey) keep();
          if (event.key === "Escape") onClose();
        }}
      />
    </foreignObject>
  );
}
