import { WorkCard } from "../../../ui/WorkCard";
import { PartField, type Work } from "../fields/PartField";
import { Palette } from "../Palette";

interface Props extends Work {
  document: { paint: { on: boolean; colour: string } };
}

/** The colour that the piece is painted in, in its file and wherever it is looked at. */
export function PaintCard({ document, editing }: Props) {
  const { on, colour } = document.paint;
  return (
    <WorkCard title="Colour" on={on} onSwitch={(next) => editing.keep(next ? "Painted" : "Not painted", { paint: { on: next } })}>
      {on ? (
        <>
          <PartField document={document} editing={editing} at="paint.colour" />
          <Palette value={colour} onChoose={(chosen, name) => editing.keep(`Painted ${name}`, { paint: { colour: chosen } })} />
        </>
      ) : (
        <p className="quiet-label">Carried by 3MF, GLB, OBJ and PLY; STL and OFF know none.</p>
      )}
    </WorkCard>
  );
}
