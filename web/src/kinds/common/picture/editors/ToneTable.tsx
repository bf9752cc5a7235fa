import { useQuery } from "@tanstack/react-query";
import { fetchTones } from "../../../../api/ops";
import { NumberField } from "../../../../ui/NumberField";
import type { EditorProps } from "./editorProps";

/** The tones that remain and what each becomes; two that become the same merge. */
export function ToneTable({ pieceId, revision, op, onDrag, onKeep }: EditorProps) {
  const tones = useQuery({
    queryKey: ["tones", pieceId, revision, op.id, op.count, op.spread],
    queryFn: () => fetchTones(pieceId, op.id, { count: op.count, spread: op.spread }),
    placeholderData: (before) => before,
  }).data;
  const becomes = op.becomes as readonly (number | null)[];
  if (!tones) return null;
  const table = (at: number, tone: number | null) => tones.map((_, i) => (i === at ? tone : (becomes[i] ?? null)));
  return (
    <div className="tone-table" role="group" aria-label="Tones that remain">
      {tones.map((tone, at) => {
        const now = becomes[at] ?? tone;
        return (
          <div key={at} className="tone-line">
            <span className="tone-chip" style={{ background: gray(tone) }} />
            <i className="bi bi-chevron-right" aria-hidden="true" />
            <span className="tone-chip" style={{ background: gray(now) }} />
            <NumberField
              label={`Tone ${at + 1}, ${Math.round(tone * 100)} %, becomes`}
              share
              unit=""
              value={Math.round(now * 1000) / 1000}
              lowest={0}
              highest={1}
              slider={{ from: 0, to: 1 }}
              step={0.01}
              onDrag={(next) => onDrag({ becomes: table(at, next) })}
              onKeep={(next) => onKeep(`tone ${at + 1} becomes ${Math.round(next * 100)} %`, { becomes: table(at, next) })}
            />
          </div>
        );
      })}
    </div>
  );
}

function gray(tone: number): string {
  const part = Math.round(tone * 255);
  return `rgb(${part} ${part} ${part})`;
}
