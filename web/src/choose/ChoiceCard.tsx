import type { Choice } from "../api/choices";
import type { ChoiceTile } from "../api/client";
import { useBenchStore } from "../state/benchStore";
import { formatLength } from "../state/units";

interface Props {
  choice: Choice;
  tile: ChoiceTile | undefined;
  refusal: string | undefined;
  busy: boolean;
  onTake: () => void;
}

/** One thing that the piece could be: how it looks, how large it is, and what matters most about it. */
export function ChoiceCard({ choice, tile, refusal, busy, onTake }: Props) {
  const unit = useBenchStore((state) => state.unit);
  const size = tile?.size_mm.map((side) => formatLength(Math.round(side), unit)).join(" × ");
  const word = refusal ?? tile?.word;
  return (
    <button type="button" className="choose-card" data-choice={choice.name} disabled={busy} onClick={onTake}>
      {tile?.picture ? <img src={tile.picture} alt="" className="choose-picture" /> : <span className="choose-picture" aria-hidden="true" />}
      <span className="choose-board">
        <span className="choose-title">
          {choice.title}
          {choice.remembered && <span className="choose-mark">last time</span>}
          {choice.now && <span className="choose-mark">now</span>}
        </span>
        <span className="quiet-label">{tile?.picture ? `about ${size} ${unit}` : tile || refusal ? "cannot be made of it" : "sketching …"}</span>
        <span className="choose-word" title={tile?.advice}>
          {word}
        </span>
        {tile?.advice && <span className="choose-advice quiet-label">{tile.advice}</span>}
      </span>
    </button>
  );
}
