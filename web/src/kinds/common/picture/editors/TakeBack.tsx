import { Button } from "../../../../ui/Button";

interface Props {
  count: number;
  what: string;
  onLast: () => void;
  onAll: () => void;
}

/** How many strokes or spots there are, and a way to take them back one by one. */
export function TakeBack({ count, what, onLast, onAll }: Props) {
  const told = count === 0 ? `No ${what} yet; draw on the Plan.` : `${count} ${what}${count > 1 ? "s" : ""}`;
  return (
    <div className="take-back">
      <span className="quiet-label">{told}</span>
      {count > 0 && (
        <>
          <Button size="sm" variant="outline-secondary" onClick={onLast}>
            Take back the last
          </Button>
          <Button size="sm" variant="outline-secondary" onClick={onAll}>
            All
          </Button>
        </>
      )}
    </div>
  );
}
