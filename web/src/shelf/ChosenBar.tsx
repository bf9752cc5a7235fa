import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Form from "react-bootstrap/Form";
import type { PieceCard } from "../api/client";
import { keys, onShelf } from "../api/pieces";
import { layRecipe } from "../api/recipes";
import { useShelfStore } from "../state/shelfStore";
import { Button } from "../ui/Button";
import { ParcelDialog } from "./ParcelDialog";
import { PlateDialog } from "./PlateDialog";
import { RecipeMenu } from "./RecipeMenu";

interface Props {
  /** Those that are shown. */
  shown: readonly PieceCard[];
  onRefusal: (sentence: string | null) => void;
  onTogether: (pieces: readonly PieceCard[]) => void;
}

/** What can be done with the pieces that are chosen. */
export function ChosenBar({ shown, onRefusal, onTogether }: Props) {
  const { chosen, set } = useShelfStore();
  const client = useQueryClient();
  const [busy, setBusy] = useState<string | null>(null);
  const [tag, setTag] = useState("");
  const [plate, setPlate] = useState<readonly PieceCard[] | null>(null);
  const [parcel, setParcel] = useState<readonly PieceCard[] | null>(null);
  if (!chosen) return null;
  const pieces = shown.filter(({ id }) => chosen.has(id));
  const run = async (doing: string, work: (piece: PieceCard) => Promise<unknown>) => {
    onRefusal(null);
    const refused: string[] = [];
    for (const [at, piece] of pieces.entries()) {
      setBusy(`${doing} ${at + 1} of ${pieces.length} …`);
      await work(piece).catch((error: Error) => refused.push(`${piece.title}: ${error.message}`));
    }
    setBusy(null);
    if (refused.length) onRefusal(refused.join(" "));
    await client.invalidateQueries({ queryKey: keys.shelf });
  };
  const label = tag.trim().slice(0, 40);
  const all = pieces.length > 0 && pieces.every(({ tags }) => tags.includes(label));
  return (
    <div className="chosen-bar" role="toolbar" aria-label="Chosen pieces">
      <b>{pieces.length} chosen</b>
      <Button size="sm" variant="outline-secondary" onClick={() => set({ chosen: new Set(shown.map(({ id }) => id)) })}>
        All that are shown
      </Button>
      <Button size="sm" variant="outline-secondary" disabled={!pieces.length || !!busy} onClick={() => void run("Duplicating", ({ id }) => onShelf.copy(id))}>
        Duplicate
      </Button>
      <Button size="sm" variant="outline-secondary" disabled={!pieces.length || !!busy} onClick={() => void run("Ordering", ({ id }) => onShelf.build(id))}>
        Build for delivery
      </Button>
      <Button size="sm" variant="outline-secondary" disabled={!pieces.length || !!busy} onClick={() => onTogether(pieces)}>
        Put together
      </Button>
      <RecipeMenu disabled={!pieces.length || !!busy} onChoose={(key, name) => void run(`Laying ${name} on`, ({ id, revision }) => layRecipe(id, revision, key))} />
      <Button size="sm" variant="outline-secondary" disabled={!pieces.length || !!busy} onClick={() => setPlate(pieces)}>
        Print on one bed
      </Button>
      <Button size="sm" variant="outline-secondary" disabled={!pieces.length || !!busy} onClick={() => setParcel(pieces)}>
        Save all in one ZIP
      </Button>
      <Button
        size="sm"
        variant="outline-secondary"
        disabled={!pieces.length || !!busy}
        onClick={() => void run("Taking", ({ id }) => onShelf.remove(id)).then(() => set({ chosen: new Set() }))}
      >
        Take off the shelf
      </Button>
      <Form.Control size="sm" type="text" className="chosen-tag" placeholder="Tag" aria-label="Tag" maxLength={40} value={tag} onChange={(event) => setTag(event.currentTarget.value)} />
      <Button
        size="sm"
        variant="outline-secondary"
        disabled={!pieces.length || !label || !!busy}
        onClick={() =>
          void run("Tagging", ({ id, tags }) => onShelf.tag(id, all ? tags.filter((each) => each !== label) : [...tags.filter((each) => each !== label), label]))
        }
      >
        {all ? "Take the tag off" : "Tag them"}
      </Button>
      {busy && <span role="status">{busy}</span>}
      {parcel && <ParcelDialog pieces={parcel} onHide={() => setParcel(null)} />}
      {plate && <PlateDialog pieces={plate} onHide={() => setPlate(null)} />}
    </div>
  );
}
