import { useState } from "react";
import Modal from "react-bootstrap/Modal";
import { turnedPicture, useWays } from "../../../api/printing";
import type { LaidWay, TurnWeights } from "../../../api/client";
import { useLooked } from "../../../state/useLooked";
import { Button } from "../../../ui/Button";
import { NumberField } from "../../../ui/NumberField";
import { WorkCard } from "../../../ui/WorkCard";
import type { AnyStationProps } from "../stationProps";
import { hours } from "./amounts";

const AS_MADE = [0, 0, -1];
const EVEN: TurnWeights = { support: 1, height: 0.3, footprint: 0.4, wobble: 0.6, steps: 0.4, scars: 0.5 };
const WEIGHTS: [keyof TurnWeights, string][] = [
  ["support", "Little support"],
  ["height", "Low"],
  ["footprint", "Broad on the plate"],
  ["wobble", "Stands firmly"],
  ["steps", "Few steps where it shows"],
  ["scars", "No scars where it shows"],
];
const NAMES: Record<string, string> = { "as made": "As made", lying: "Lying", standing: "Standing", best: "Best", "best but 1": "Second best", "best but 2": "Third best" };

/** How the piece lies on the plate; the way that is taken goes into every file. */
export function LaidCard(props: AnyStationProps) {
  const [open, setOpen] = useState(false);
  const asMade = props.document.printing.down.every((part, at) => part === AS_MADE[at]);
  return (
    <WorkCard title="On the plate">
      <p className="quiet-label mb-1">{asMade ? "It is printed as it lies." : "It is printed turned; files hold it so."}</p>
      <Button size="sm" variant="outline-secondary" onClick={() => setOpen(true)}>
        <i className="bi bi-arrow-repeat me-2" aria-hidden="true" />
        Compare ways to lay it
      </Button>
      {open && <WaysDialog {...props} onHide={() => setOpen(false)} />}
    </WorkCard>
  );
}

/** Ways to lay the piece side by side, and what counts among them. */
function WaysDialog({ pieceId, revision, editing, onHide }: AnyStationProps & { onHide: () => void }) {
  const [weights, setWeights] = useState(EVEN);
  const ways = useWays(useLooked(pieceId, revision), weights, true);
  return (
    <Modal show onHide={onHide} size="xl" centered aria-labelledby="ways-title">
      <Modal.Header closeButton>
        <Modal.Title as="h2" className="fs-5" id="ways-title">
          Ways to lay it
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        {ways.error && (
          <p className="measure-refusal" role="alert">
            {ways.error.message}
          </p>
        )}
        {!ways.data && !ways.error && <p className="quiet-label">Turning it over and over …</p>}
        <div className={ways.isPlaceholderData ? "ways is-awaited" : "ways"} aria-busy={ways.isFetching} role="list" aria-label="Ways to lay it">
          {ways.data?.map((way) => (
            <WayTile
              key={way.turn.down.join()}
              way={way}
              picture={turnedPicture(pieceId, revision, way.turn.down)}
              onTake={() => editing.keep(`Laid ${titleOf(way).toLowerCase()}`, { printing: { down: way.turn.down } })}
            />
          ))}
        </div>
        <fieldset className="way-weights">
          <legend>What counts for the best</legend>
          {WEIGHTS.map(([name, label]) => (
            <NumberField
              key={name}
              label={label}
              unit=""
              value={weights[name] ?? 0}
              lowest={0}
              highest={10}
              slider={{ from: 0, to: 2 }}
              step={0.1}
              onKeep={(value) => setWeights({ ...weights, [name]: value })}
            />
          ))}
        </fieldset>
        <p className="quiet-label mb-0">Chosen among the sides of its hull and 26 directions by their faces; what is told here was cut into layers, of the preview.</p>
      </Modal.Body>
    </Modal>
  );
}

function titleOf({ names }: LaidWay): string {
  return names.map((name) => NAMES[name] ?? name).join(", ") || "As it is";
}

function WayTile({ way, picture, onTake }: { way: LaidWay; picture: string; onTake: () => void }) {
  const { built, turn } = way;
  const title = titleOf(way);
  return (
    <div role="listitem" className={way.taken ? "way is-taken" : "way"} aria-label={title}>
      <img src={picture} alt={`How it stands: ${title.toLowerCase()}`} />
      <div className="way-words">
        <strong>{title}</strong>
        <dl>
          <dt>support</dt>
          <dd>{built.support_mm3 < 0.5 ? "none" : `${(built.support_mm3 / 1000).toFixed(2)} cm³`}</dd>
          <dt>high</dt>
          <dd>{built.height_mm.toFixed(1)} mm</dd>
          <dt>time</dt>
          <dd>{hours(built.minutes)}</dd>
          <dt>weight</dt>
          <dd>
            {built.grams.toFixed(1)} g, {way.price.toFixed(2)}
          </dd>
        </dl>
        {built.islands > 0 && <span className="quiet-label">{built.islands} in mid-air</span>}
        {turn.tips_deg < 3 && <span className="quiet-label">wobbles</span>}
        {!way.fits_bed && <span className="quiet-label">larger than the bed</span>}
        {way.taken ? (
          <span className="way-taken">
            <i className="bi bi-check-lg me-1" aria-hidden="true" />
            taken
          </span>
        ) : (
          <Button size="sm" variant="outline-secondary" aria-label={`Take: ${title}`} onClick={onTake}>
            Take
          </Button>
        )}
      </div>
    </div>
  );
}
