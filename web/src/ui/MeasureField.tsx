import { useId, useState } from "react";
import Form from "react-bootstrap/Form";

export interface MeasureProps {
  label: string;
  value: number;
  lowest: number;
  highest: number;
  /** The span of the slider; without it there is none. */
  slider?: { from: number; to: number };
  step: number;
  /** While the slider moves. */
  onDrag?: (value: number) => void;
  onKeep: (value: number) => void;
}

interface Props extends MeasureProps {
  /** The value as shown, with its unit. */
  show: (value: number) => string;
  /** The value of what was typed, or null. */
  read: (text: string) => number | null;
  /** What would be accepted, for the refusal of something that is no number. */
  examples: string;
}

/** A number that can be typed, dragged, or stepped by the arrow keys. */
export function MeasureField({
  label,
  value,
  lowest,
  highest,
  slider,
  step,
  onDrag,
  onKeep,
  show,
  read,
  examples,
}: Props) {
  const id = useId();
  const [typed, setTyped] = useState<string | null>(null);
  const [dragged, setDragged] = useState<number | null>(null);
  const [refusal, setRefusal] = useState<string | null>(null);
  const shown = dragged ?? value;

  const keep = (next: number) => {
    setRefusal(null);
    setTyped(null);
    setDragged(null);
    if (next !== value) onKeep(next);
    else onDrag?.(next);
  };
  const keepTyped = () => {
    if (typed === null) return;
    const next = read(typed);
    if (next === null) setRefusal(`“${typed}” is not understood; try ${examples}.`);
    else if (next < lowest || next > highest) setRefusal(`${show(lowest)} to ${show(highest)} would be accepted.`);
    else keep(round(next));
  };
  const nudge = (by: number) => keep(clamp(round(value + by), lowest, highest));

  return (
    <div className="measure">
      <label htmlFor={id}>{label}</label>
      {slider ? (
        <Form.Range
          className="measure-slider"
          aria-label={`${label}, slider`}
          min={slider.from}
          max={slider.to}
          step={step}
          value={clamp(shown, slider.from, slider.to)}
          onChange={(event) => {
            const next = round(Number(event.currentTarget.value));
            setDragged(next);
            onDrag?.(next);
          }}
          onPointerUp={() => dragged !== null && keep(dragged)}
          onKeyUp={() => dragged !== null && keep(dragged)}
          onBlur={() => dragged !== null && keep(dragged)}
        />
      ) : (
        <span />
      )}
      <Form.Control
        id={id}
        size="sm"
        type="text"
        inputMode="decimal"
        autoComplete="off"
        isInvalid={refusal !== null}
        aria-describedby={refusal ? `${id}-refusal` : undefined}
        value={typed ?? show(shown)}
        onFocus={(event) => event.currentTarget.select()}
        onChange={(event) => {
          setTyped(event.currentTarget.value);
          setRefusal(null);
        }}
        onBlur={keepTyped}
        onKeyDown={(event) => {
          if (event.key === "Enter") keepTyped();
          else if (event.key === "Escape") {
            setTyped(null);
            setRefusal(null);
          } else if (event.key === "ArrowUp") nudge(event.shiftKey ? 10 * step : step);
          else if (event.key === "ArrowDown") nudge(event.shiftKey ? -10 * step : -step);
          else return;
          event.preventDefault();
        }}
      />
      {refusal && (
        <div id={`${id}-refusal`} className="measure-refusal" role="alert">
          {refusal}
        </div>
      )}
    </div>
  );
}

function clamp(value: number, low: number, high: number): number {
  return Math.min(high, Math.max(low, value));
}

function round(value: number): number {
  return Math.round(value * 1e6) / 1e6;
}
