import { useState } from "react";
import { useQuery } from "@tanstack/react-query";
import { fetchStrip } from "../../../api/preview";
import { useBenchStore } from "../../../state/benchStore";
import { WorkCard } from "../../../ui/WorkCard";
import { AddOp } from "./AddOp";
import { idBefore } from "../ops/opEdits";
import { OpRow } from "./OpRow";
import type { OpsEditing } from "../ops/useOps";

interface Props {
  pieceId: string;
  revision: number;
  editing: OpsEditing;
}

/** What is done to the picture, in order. */
export function OpList({ pieceId, revision, editing }: Props) {
  const { ops } = editing;
  const opId = useBenchStore((state) => state.opId);
  const [held, setHeld] = useState<string | null>(null);
  const [over, setOver] = useState<number | null>(null);
  const strip = useQuery({
    queryKey: ["strip", pieceId, revision],
    queryFn: () => fetchStrip(pieceId, {}),
    placeholderData: (before) => before,
    enabled: ops.length > 0,
  }).data;

  const letGo = () => {
    if (held !== null && over !== null) editing.move(held, over);
    setHeld(null);
    setOver(null);
  };
  return (
    <WorkCard title="Steps">
      {ops.length === 0 ? (
        <p className="quiet-label">Nothing is done to the picture yet. Every step can be switched off or moved later.</p>
      ) : (
        <ol className="op-list" aria-label="Picture steps" onDragOver={(event) => event.preventDefault()} onDrop={letGo}>
          {ops.map((op, place) => (
            <OpRow
              key={op.id}
              pieceId={pieceId}
              revision={revision}
              op={op}
              place={place}
              count={ops.length}
              editing={editing}
              open={op.id === opId}
              before={strip?.thumbs.get(idBefore(ops, op.id))}
              after={strip?.thumbs.get(op.id)}
              failed={strip?.failed[op.id]}
              marked={over === place && held !== null && held !== op.id}
              onHold={() => setHeld(op.id)}
              onOver={() => setOver(place)}
              onLetGo={() => {
                setHeld(null);
                setOver(null);
              }}
            />
          ))}
        </ol>
      )}
      <AddOp onAdd={editing.add} />
    </WorkCard>
  );
}
