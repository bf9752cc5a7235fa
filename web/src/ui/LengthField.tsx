import { useBenchStore } from "../state/benchStore";
import { MeasureField, type MeasureProps } from "./MeasureField";
import { formatLength, parseLength } from "../state/units";

/** A length in mm that can be typed with a unit, dragged, or stepped by the arrow keys. */
export function LengthField(props: MeasureProps) {
  const unit = useBenchStore((state) => state.unit);
  return (
    <MeasureField
      {...props}
      show={(value) => `${formatLength(value, unit)} ${unit}`}
      read={(text) => parseLength(text, unit)}
      examples="3.5 or 1/8 in"
    />
  );
}
