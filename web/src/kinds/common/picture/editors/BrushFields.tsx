import Form from "react-bootstrap/Form";
import { useBenchStore } from "../../../../state/benchStore";
import { usePartSchemas } from "../../../../state/partSchemas";
import { RowFields } from "../../fields/RowFields";

/** The brush that the next stroke is drawn with. */
export function BrushFields() {
  const brush = useBenchStore((state) => state.brush);
  const set = useBenchStore((state) => state.set);
  const row = { size_mm: brush.sizeMm, hardness: brush.hardness };
  const change = (part: Partial<typeof row>) => {
    const { size_mm, hardness } = { ...row, ...part };
    set({ brush: { ...brush, sizeMm: size_mm, hardness } });
  };
  return (
    <>
      <RowFields part={usePartSchemas().named("Stroke")} row={row} only={["size_mm", "hardness"]} onDrag={change} onKeep={(_, part) => change(part)} />
      <Form.Check
        type="switch"
        id="brush-straight"
        label="Straight lines"
        checked={brush.straight}
        onChange={(event) => set({ brush: { ...brush, straight: event.currentTarget.checked } })}
      />
    </>
  );
}
