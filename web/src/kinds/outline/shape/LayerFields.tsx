import type { OutlinesView } from "../../../api/client";
import { usePartSchemas } from "../../../state/partSchemas";
import { LengthField } from "../../../ui/LengthField";
import type { Work } from "../../common/fields/PartField";
import { patchAt } from "../../common/fields/patchAt";

type Layer = OutlinesView["layers"][number];

interface Props extends Work {
  /** A list of the document with a length for every layer. */
  at: string;
  layers: readonly Layer[];
  /** Where the list says nothing. */
  valueOf: (at: number) => number;
  /** Beside the control of a layer; null for one that has none. */
  labelOf: (layer: Layer) => string | null;
  /** What the history says of a change. */
  tell: (layer: Layer, mm: number) => string;
}

/** A length for every layer. */
export function LayerFields({ document, editing, at, layers, valueOf, labelOf, tell }: Props) {
  const { lowest, highest, step } = usePartSchemas().field(document, at);
  return (
    <div className="field-pairs">
      {layers.map((layer, number) => {
        const label = labelOf(layer);
        if (label === null) return null;
        return (
          <LengthField
            key={`${number} ${layer.name}`}
            label={label}
            value={valueOf(number)}
            lowest={lowest ?? 0}
            highest={highest ?? 1e6}
            step={step}
            onKeep={(mm) => editing.keep(tell(layer, mm), patchAt(at, layers.map((_, i) => (i === number ? mm : valueOf(i)))))}
          />
        );
      })}
    </div>
  );
}
