import type { PieceView } from "../api/client";
import { useJobs } from "../api/pieces";
import { builtReport } from "../api/built";
import { useBenchStore } from "../state/benchStore";
import { useGuideStore } from "../state/guideStore";

interface Seen {
  document: PieceView["document"];
  station: string;
  revisions: number;
  built: boolean;
}

interface Step {
  say: string;
  station: string;
  done: (seen: Seen) => boolean;
}

const STEPS: readonly Step[] = [
  {
    say: "This is a sheet with a word on it. At Picture, open the step “Lettering” and change its text to a name you like.",
    station: "picture",
    done: ({ document }) => "ops" in document && document.ops.some((op) => op.kind === "lettering" && "text" in op && op.text !== "Fernhollow"),
  },
  {
    say: "Go to Height. Bright stands tall, in steps. Set the brightest step to 2 mm.",
    station: "height",
    done: ({ document }) => "height" in document && document.height.rule.steps.some(({ tone, mm }) => tone === 1 && mm === 2),
  },
  {
    say: "Go to Body and choose another outline, such as the rectangle with round corners.",
    station: "body",
    done: ({ document }) => "body" in document && document.body.shape !== "rectangle",
  },
  { say: "Go to Deliver and press “Build and save”. The solid is measured while it is made.", station: "deliver", done: ({ built }) => built },
];

/** The guided first piece: one sentence at a time, until its file is made. */
export function Guide({ piece }: { piece: PieceView }) {
  const { pieceId, end } = useGuideStore();
  const station = useBenchStore((state) => state.station);
  const set = useBenchStore((state) => state.set);
  const jobs = useJobs(piece.id);
  if (pieceId !== piece.id) return null;
  const seen = { document: piece.document, station, revisions: piece.revision, built: builtReport(jobs.data, piece.revision) !== undefined };
  const at = STEPS.findIndex((step) => !step.done(seen));
  const step = STEPS[at];
  return (
    <aside className="guide" aria-label="First piece" role="status">
      <span className="guide-count">{step ? `${at + 1} of ${STEPS.length}` : "Done"}</span>
      <p className="mb-0">{step ? step.say : "That is a finished solid, and its file. Undo brings back any step; the shelf keeps the piece."}</p>
      {step && step.station !== station && (
        <button type="button" className="btn btn-sm btn-primary" onClick={() => set({ station: step.station })}>
          Take me there
        </button>
      )}
      <button type="button" className="btn btn-sm btn-outline-secondary" onClick={end}>
        {step ? "I go on alone" : "Close"}
      </button>
    </aside>
  );
}
