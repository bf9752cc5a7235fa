import { useBenchStore } from "../../../../state/benchStore";
import { LengthField } from "../../../../ui/LengthField";
import { NumberField } from "../../../../ui/NumberField";

/** The brush that the next stroke is drawn with. */
export function BrushFields() {
  const brush = useBenchStore((state) => state.brush);
  const set = useBenchStore((state) => state.set);
  const change = (part: Partial<typeof brush>) => set({ brush: { ...brush, ...part } });
  return (
    <>
      <LengthField
        label="Brush size"
        value={brush.sizeMm}
        lowest={0.05}
        highest={500}
        slider={{ from: 0.2, to: 30 }}
        step={0.1}
        onDrag={(sizeMm) => change({ sizeMm })}
        onKeep={(sizeMm) => change({ sizeMm })}
      />
      <NumberField
        label="Hardness"
        share
        unit=""
        value={brush.hardness}
        lowest={0}
        highest={1}
        slider={{ from: 0, to: 1 }}
        step={0.05}
        onKeep={(hardness) => change({ hardness })}
      />
    </>
  );
}
