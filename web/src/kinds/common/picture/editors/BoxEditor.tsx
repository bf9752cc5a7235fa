import { useState } from "react";
import { findContent, type ContentBox } from "../../../../api/ops";
import { useBenchStore } from "../../../../state/benchStore";
import { Button } from "../../../../ui/Button";
import { LengthField } from "../../../../ui/LengthField";
import { idBefore } from "../../ops/opEdits";
import type { EditorProps } from "./editorProps";
import { usePlan } from "../../../../state/previews";

const SMALLEST_SHARE = 0.01;

/** The crop box in numbers, and a way to find it. */
export function BoxEditor({ pieceId, op, ops, onDrag, onKeep }: EditorProps) {
  const plan = usePlan();
  const look = useBenchStore((state) => state.look);
  const [refusal, setRefusal] = useState<string | null>(null);
  const box = op.box as ContentBox;
  const [width, depth] = plan?.head.size_mm ?? [1, 1];
  const trim = () =>
    void findContent(pieceId, idBefore(ops, op.id)).then(
      (found) => {
        setRefusal(null);
        onKeep("trimmed to content", { box: found, aspect: "free" });
      },
      (error: Error) => setRefusal(error.message),
    );
  const side = (label: string, name: keyof ContentBox, whole: number, off: (share: number) => number) => (
    <LengthField
      label={label}
      value={off(box[name]) * whole}
      lowest={0}
      highest={off(other(box, name)) * whole - SMALLEST_SHARE * whole}
      step={0.5}
      onDrag={(mm) => onDrag({ box: { ...box, [name]: off(mm / whole) } })}
      onKeep={(mm) => onKeep(label.toLowerCase(), { box: { ...box, [name]: off(mm / whole) } })}
    />
  );
  return (
    <>
      {look === "in" && plan && (
        <div className="field-pair">
          {side("Left off", "left", width, (share) => share)}
          {side("Right off", "right", width, (share) => 1 - share)}
          {side("Top off", "top", depth, (share) => 1 - share)}
          {side("Bottom off", "bottom", depth, (share) => share)}
        </div>
      )}
      <Button size="sm" variant="outline-secondary" onClick={trim}>
        Trim to content
      </Button>
      {refusal && (
        <p className="measure-refusal" role="alert">
          {refusal}
        </p>
      )}
    </>
  );
}

function other(box: ContentBox, name: keyof ContentBox): number {
  return { left: box.right, right: box.left, top: box.bottom, bottom: box.top }[name];
}
