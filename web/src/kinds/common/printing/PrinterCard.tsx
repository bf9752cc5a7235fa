import { useState } from "react";
import ProgressBar from "react-bootstrap/ProgressBar";
import { usePrinter, usePrinting, type PrintStanding, type PrintWord } from "../../../api/printing";
import type { JobView } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { WorkCard } from "../../../ui/WorkCard";
import { hours } from "./amounts";

const STATES: Record<PrintStanding["state"], string> = {
  waiting: "waits",
  printing: "prints",
  paused: "is paused",
  jammed: "is jammed",
  done: "is done",
  cancelled: "was cancelled",
};
const WORDS: Partial<Record<PrintStanding["state"], [PrintWord, string][]>> = {
  waiting: [["cancel", "Cancel"]],
  printing: [
    ["pause", "Pause"],
    ["cancel", "Cancel"],
  ],
  paused: [
    ["resume", "Go on"],
    ["cancel", "Cancel"],
  ],
  jammed: [
    ["retry", "Retry"],
    ["cancel", "Cancel"],
  ],
};
const MOST_SHOWN = 6;

/** The printer on the network: the finished file sent to it, and its queue. */
export function PrinterCard({ done }: { done: JobView | undefined }) {
  const [open, setOpen] = useState(false);
  const printer = usePrinter(open);
  const { send, tell } = usePrinting();
  const refusal = send.error ?? tell.error ?? printer.error;
  return (
    <WorkCard title="Printer">
      <div className="d-flex flex-wrap gap-2">
        <Button
          size="sm"
          variant="outline-secondary"
          disabled={!done || send.isPending}
          onClick={() => {
            setOpen(true);
            if (done) send.mutate(done.id);
          }}
        >
          <i className="bi bi-printer me-2" aria-hidden="true" />
          {send.isPending ? "Sending …" : "Send the file to it"}
        </Button>
        {!open && (
          <Button size="sm" variant="outline-secondary" onClick={() => setOpen(true)}>
            What it does
          </Button>
        )}
      </div>
      {!done && <p className="quiet-label">Build the piece first; the file that is saved is the one that is sent.</p>}
      {printer.data && (
        <>
          <p className="quiet-label mb-1" data-testid="printer-standing">
            {printer.data.name} is {printer.data.state}; bed {printer.data.bed_mm.join(" × ")} mm, {printer.data.slots} filaments.
          </p>
          <div role="list" aria-label="Prints">
            {printer.data.prints.slice(0, MOST_SHOWN).map((each) => (
              <Print key={each.id} print={each} busy={tell.isPending} onSay={(word) => tell.mutate({ id: each.id, word })} />
            ))}
          </div>
        </>
      )}
      {refusal && (
        <p className="measure-refusal" role="alert">
          {refusal.message}
        </p>
      )}
    </WorkCard>
  );
}

function Print({ print, busy, onSay }: { print: PrintStanding; busy: boolean; onSay: (word: PrintWord) => void }) {
  const { name, state, position = 0, layer = 0, layers = 0, fraction = 0, minutes_left: left = 0, reason } = print;
  return (
    <div role="listitem" className="print" aria-label={name}>
      <p className="mb-1 text-break">
        {name} {STATES[state]}
        {state === "waiting" ? `, ${position} before it` : ""}.
      </p>
      {(state === "printing" || state === "paused" || state === "jammed") && (
        <>
          <ProgressBar className="mb-1" aria-label={`Progress of ${name}`} now={Math.round(100 * fraction)} variant={state === "jammed" ? "danger" : undefined} />
          <p className="quiet-label mb-1">
            Layer {layer.toLocaleString("en")} of {layers.toLocaleString("en")}, about {hours(left)} left.
          </p>
        </>
      )}
      {reason && (
        <p className="measure-refusal" role="alert">
          {reason}
        </p>
      )}
      <div className="d-flex gap-2">
        {WORDS[state]?.map(([word, label]) => (
          <Button key={word} size="sm" variant="outline-secondary" disabled={busy} onClick={() => onSay(word)}>
            {label}
          </Button>
        ))}
      </div>
    </div>
  );
}
