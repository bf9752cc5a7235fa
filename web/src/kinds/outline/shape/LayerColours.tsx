import type { OutlinesView } from "../../../api/client";
import type { Work } from "../../common/fields/PartField";
import { patchAt } from "../../common/fields/patchAt";

interface Props extends Work {
  colours: readonly (string | null)[];
  layers: OutlinesView["layers"];
}

const FIRST = "#c9b79c";

/** A colour for every layer, or none. */
export function LayerColours({ colours, layers, editing }: Props) {
  const keep = (at: number, colour: string | null, name: string) => {
    const next = layers.map((_, each) => (each === at ? colour : (colours[each] ?? null)));
    editing.keep(`${name} ${colour ?? "not painted"}`, patchAt("solid.colours", next));
  };
  return layers.map((layer, at) => {
    const colour = colours[at] ?? null;
    return (
      <div key={layer.name} className="d-flex align-items-center gap-2">
        <label className="flex-grow-1">
          <input type="checkbox" className="me-2" checked={colour !== null} onChange={(event) => keep(at, event.currentTarget.checked ? FIRST : null, layer.name)} />
          {layer.name} painted
        </label>
        {colour && <input type="color" aria-label={`Colour of ${layer.name}`} value={colour} onChange={(event) => keep(at, event.currentTarget.value, layer.name)} />}
      </div>
    );
  });
}
