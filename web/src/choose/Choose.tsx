import { useEffect, useRef, type KeyboardEvent } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { useChoices, useChoose, useTiles } from "../api/choices";
import { usePiece } from "../api/pieces";
import { useBenchStore } from "../state/benchStore";
import { Button } from "../ui/Button";
import { ChoiceCard } from "./ChoiceCard";
import { RecipeBook } from "./RecipeBook";

const AWAY: Record<string, number> = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 };

/** What a piece could be, each looked at on its own picture; and recipes that can be laid on it. */
export function Choose() {
  const { pieceId = "" } = useParams();
  const navigate = useNavigate();
  const piece = usePiece(pieceId);
  const revision = piece.data?.revision;
  const choices = useChoices(pieceId, revision);
  const names = choices.data?.map(({ name }) => name) ?? [];
  const tiles = useTiles(pieceId, revision, names);
  const choose = useChoose(pieceId);
  const set = useBenchStore((state) => state.set);
  const grid = useRef<HTMLDivElement>(null);
  const first = choices.data?.find(({ remembered }) => remembered) ?? choices.data?.find(({ now }) => now);
  useEffect(() => {
    grid.current?.querySelector<HTMLButtonElement>(`[data-choice="${first?.name ?? ""}"]`)?.focus();
  }, [first?.name]);

  const toBench = () => void navigate(`/piece/${pieceId}`);
  const take = (name: string) => {
    if (revision === undefined) return;
    choose.mutate(
      { base: revision, name },
      {
        onSuccess: (made) => {
          const begins = made.stations.find((station) => station.begins) ?? made.stations.find((station) => station.name !== "picture");
          if (begins) set({ station: begins.name });
          toBench();
        },
      },
    );
  };
  const onKey = (event: KeyboardEvent<HTMLDivElement>) => {
    const step = AWAY[event.key];
    if (step === undefined) return;
    const all = [...event.currentTarget.querySelectorAll<HTMLButtonElement>("[data-choice]")];
    const at = all.indexOf(document.activeElement as HTMLButtonElement);
    event.preventDefault();
    all[(at + step + all.length) % all.length]?.focus();
  };
  useEffect(() => {
    const onEscape = (event: globalThis.KeyboardEvent) => event.key === "Escape" && void navigate(`/piece/${pieceId}`);
    window.addEventListener("keydown", onEscape);
    return () => window.removeEventListener("keydown", onEscape);
  }, [navigate, pieceId]);
  const refusal = piece.error ?? choices.error ?? choose.error;
  return (
    <div className="choose">
      <header className="shelf-head">
        <Link to="/" className="head-mark" aria-label="Back to the shelf" title="Back to the shelf">
          <img src="/mark.svg" alt="" className="shelf-mark" />
        </Link>
        <h1>{piece.data ? `What shall “${piece.data.document.title}” be?` : "What shall it be?"}</h1>
        <div className="shelf-tools">
          <Button variant="outline-secondary" onClick={toBench}>
            To the bench as it is
          </Button>
        </div>
      </header>
      {refusal && (
        <p className="notice-strip" role="alert">
          {refusal.message}
        </p>
      )}
      <main>
        {choices.data?.length !== 0 && (
          <section aria-label="Choices">
            <p className="quiet-label choose-lead">Small sketches of this very picture; sizes are about. The bench shows all of it.</p>
            <div className="choose-grid" ref={grid} onKeyDown={onKey}>
              {choices.data?.map((choice, at) => (
                <ChoiceCard
                  key={choice.name}
                  choice={choice}
                  tile={tiles[at]?.data}
                  refusal={tiles[at]?.error?.message}
                  busy={choose.isPending}
                  onTake={() => take(choice.name)}
                />
              ))}
            </div>
          </section>
        )}
        {piece.data && <RecipeBook piece={piece.data} onLaid={toBench} />}
      </main>
    </div>
  );
}
