import Form from "react-bootstrap/Form";
import { useBenchStore } from "../../bench/benchStore";
import { WorkCard } from "../../ui/WorkCard";
import type { AnyStationProps } from "../stationProps";
import { shapeOf, shapePatch, SHAPES, shapesFor, type ShapeKind } from "./solids";

/** What the piece is made of: heights, or outlines as one of several things. */
export function KindCard({ document, editing }: Pick<AnyStationProps, "document" | "editing">) {
  const set = useBenchStore((state) => state.set);
  const shape = shapeOf(document);
  return (
    <WorkCard title="What it is">
      <Form.Select
        size="sm"
        aria-label="What it is"
        value={shape}
        onChange={(event) => {
          const kind = event.currentTarget.value as ShapeKind;
          if (kind === shape) return;
          editing.keep(`Made a ${SHAPES[kind].toLowerCase()}`, shapePatch(document, kind));
          if (shape === "panel" && kind !== "lithophane") set({ station: "height" });
        }}
      >
        {shapesFor(document).map((kind) => (
          <option key={kind} value={kind}>
            {SHAPES[kind]}
          </option>
        ))}
      </Form.Select>
      {shape === "panel" && <p className="quiet-label">A lithophane shows the picture with a lamp behind it; the others follow its edges as curves. Undo brings everything back.</p>}
    </WorkCard>
  );
}
