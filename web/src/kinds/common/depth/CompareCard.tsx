import { useState } from "react";
import { useComparedDepths } from "../../../api/depthSources";
import type { ComparedDepth } from "../../../api/client";
import { usePartSchemas } from "../../../state/partSchemas";
import { Button } from "../../../ui/Button";
import { WorkCard } from "../../../ui/WorkCard";
import { patchAt } from "../fields/patchAt";
import { depthIn, type DepthWork } from "./depthHome";

/** The same piece by every source of depth, side by side, and how far each is from the piece as it is. */
export function CompareCard({ pieceId, revision, document, editing, at }: DepthWork) {
  const [asked, setAsked] = useState(false);
  const { data: found, isFetching, error } = useComparedDepths(pieceId, revision, asked);
  const words = usePartSchemas().field(document, `${at}.depth.kind`).choices;
  const own = depthIn(document, at).depth.kind;
  return (
    <WorkCard title="Sources of depth, side by side">
      {!asked && (
        <Button size="sm" variant="outline-secondary" onClick={() => setAsked(true)}>
          Compare
        </Button>
      )}
      {error && <p role="alert">{error.message}</p>}
      {asked && (
        <ol className="compared" aria-busy={isFetching}>
          {(found ?? []).map((each) => (
            <li key={each.source}>
              <div className="compared-head">
                <strong>{words[each.source] ?? each.source}</strong>
                {each.source === own ? (
                  <span className="quiet-label">as it is</span>
                ) : (
                  <Button
                    size="sm"
                    variant="outline-secondary"
                    aria-label={`Take ${words[each.source] ?? each.source}`}
                    onClick={() => editing.keep(`Depth by ${words[each.source] ?? each.source}`, patchAt(`${at}.depth.kind`, each.source))}
                  >
                    Take
                  </Button>
                )}
              </div>
              <div className="side-by-side">
                <img src={each.picture} alt={`The piece by ${words[each.source] ?? each.source}, from the front`} />
                {each.source !== own && <img className="difference" src={each.difference} alt={`Where it is nearer and farther by ${words[each.source] ?? each.source}`} />}
              </div>
              <p className="quiet-label">{told(each, own)}</p>
            </li>
          ))}
        </ol>
      )}
    </WorkCard>
  );
}

function told(each: ComparedDepth, own: string): string {
  const unsure = each.unsure_mm === null || each.unsure_mm === undefined ? "" : ` It may be off by ${each.unsure_mm.toFixed(1)} mm.`;
  if (each.source === own) return unsure;
  return (
    `Up to ${each.nearer_mm.toFixed(1)} mm nearer (warm), ${each.farther_mm.toFixed(1)} mm farther (cool), ` +
    `${each.mean_mm.toFixed(2)} mm on average.${unsure}`
  );
}
