import { useQueryClient } from "@tanstack/react-query";
import { Button } from "../ui/Button";
import { keys, onShelf } from "../api/pieces";
import { useRemoved } from "../state/removedStore";

/** Offers to put the last removed piece back. */
export function RemovedStrip() {
  const { last, set } = useRemoved();
  const client = useQueryClient();
  if (!last) return null;
  const putBack = async () => {
    await onShelf.restore(last.id);
    set(null);
    await client.invalidateQueries({ queryKey: keys.shelf });
  };
  return (
    <div className="px-4 pb-2 d-flex gap-3 align-items-center" role="status">
      <span>“{last.title}” was taken off the shelf.</span>
      <Button size="sm" variant="outline-secondary" onClick={() => void putBack()}>
        Put it back
      </Button>
    </div>
  );
}
