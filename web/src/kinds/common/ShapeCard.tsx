import Form from "react-bootstrap/Form";
import type { PieceView } from "../../api/client";
import { useReshape } from "../../state/useReshape";
import { WorkCard } from "../../ui/WorkCard";

/** What the piece is, and what else could be made of what it starts from. */
export function ShapeCard({ piece }: { piece: PieceView }) {
  const reshape = useReshape(piece);
  return (
    <WorkCard title="What it is">
      <Form.Select
        size="sm"
        aria-label="What it is"
        value={piece.shape}
        disabled={reshape.isPending}
        onChange={(event) => reshape.mutate(event.currentTarget.value)}
      >
        {piece.shapes.map(({ name, title }) => (
          <option key={name} value={name}>
            {title}
          </option>
        ))}
      </Form.Select>
      {piece.kind === "panel" && (
        <p className="quiet-label">A lithophane shows the picture with a lamp behind it; a figure swells from its outline; the others follow its edges as curves. Undo brings everything back.</p>
      )}
    </WorkCard>
  );
}
