import { useState } from "react";
import type { Storage } from "../api/client";
import { type Room, useMakeRoom, useStorage } from "../api/server";
import { ago } from "../shelf/ago";
import { Button } from "../ui/Button";
import { WorkCard } from "../ui/WorkCard";
import { bytes } from "./bytes";

const PARTS: Record<string, string> = {
  database: "Pieces, versions and their past",
  sources: "Pictures, drawings and models they start from",
  results: "Results, which can be made again",
  copies: "Daily copies of the pieces, a week of them",
  logs: "Log",
};

/** What the data folder holds, and what of it can go. */
export function StorageCard() {
  const { data: storage, error } = useStorage();
  const room = useMakeRoom();
  const refusal = error?.message ?? room.error?.message;
  return (
    <WorkCard title="Storage">
      {refusal && (
        <p className="measure-refusal" role="alert">
          {refusal}
        </p>
      )}
      {storage && (
        <>
          <Sizes storage={storage} />
          <div className="keeping-acts">
            <Act
              words={`Delete ${counted(storage.removed, "removed piece")}`}
              warning="They cannot be put back on the shelf afterwards."
              disabled={storage.removed === 0 || room.isPending}
              onAct={() => room.mutate("removed")}
            />
            <Act
              words="Thin out the past"
              warning={`Of ${counted(storage.states, "state")}, the last 50 of every piece stay, those with a name or a result, and one an hour of those before.`}
              disabled={room.isPending}
              onAct={() => room.mutate("history" satisfies Room)}
            />
            <Act
              words="Delete results"
              warning="Files that were built are built again when they are asked for."
              disabled={room.isPending}
              onAct={() => room.mutate("results")}
            />
          </div>
          <p className="quiet-label">
            {storage.copied ? `The pieces were copied ${ago(new Date(storage.copied), new Date())}. ` : "The pieces are copied once a day. "}
            To keep all of it elsewhere, in one file: <code>nebrel backup all.nebrel</code>
          </p>
        </>
      )}
    </WorkCard>
  );
}

function Sizes({ storage }: { storage: Storage }) {
  const total = storage.parts.reduce((sum, part) => sum + part.bytes, 0);
  return (
    <table className="table table-sm mb-0" aria-label="What the data folder holds">
      <tbody>
        {storage.parts.map((part) => (
          <tr key={part.name}>
            <td>{PARTS[part.name] ?? part.name}</td>
            <td className="text-end">{bytes(part.bytes)}</td>
          </tr>
        ))}
        <tr>
          <th scope="row">
            All in <code>{storage.folder}</code>
          </th>
          <th className="text-end">{bytes(total)}</th>
        </tr>
        <tr>
          <td>Free on this disk</td>
          <td className="text-end">{bytes(storage.free_bytes)}</td>
        </tr>
      </tbody>
    </table>
  );
}

/** Something that cannot be taken back: it is pressed twice, the second time knowing what goes. */
function Act({ words, warning, disabled, onAct }: { words: string; warning: string; disabled: boolean; onAct: () => void }) {
  const [asked, setAsked] = useState(false);
  if (!asked)
    return (
      <Button size="sm" variant="outline-secondary" disabled={disabled} onClick={() => setAsked(true)}>
        {words} …
      </Button>
    );
  return (
    <div className="keeping-question" role="group" aria-label={words}>
      <span>{warning}</span>
      <Button
        size="sm"
        onClick={() => {
          setAsked(false);
          onAct();
        }}
      >
        {words}
      </Button>
      <Button size="sm" variant="outline-secondary" onClick={() => setAsked(false)}>
        Keep
      </Button>
    </div>
  );
}

const counted = (count: number, what: string) => `${count.toLocaleString("en")} ${what}${count === 1 ? "" : "s"}`;
