import type { ContentBox } from "../../../../api/ops";
import { askedProportion, proportioned } from "./boxEdits";
import { BoxFrame } from "./BoxFrame";
import type { ToolProps } from "./PictureTools";

/** The crop box on the picture that comes in. */
export function CropTool({ op, geometry, onDrag, onKeep }: ToolProps) {
  const [width, depth] = geometry.size;
  const asked = askedProportion(op.aspect, width, depth);
  return (
    <BoxFrame
      box={op.box as ContentBox}
      geometry={geometry}
      veiled
      onChange={(moved, grip, kept) => {
        const fixed = asked !== null && grip.length < 4;
        const box = fixed ? proportioned(moved, grip, (asked * depth) / width) : moved;
        if (kept) onKeep("box moved", { box });
        else onDrag({ box });
      }}
    />
  );
}
