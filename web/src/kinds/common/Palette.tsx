import { useFilaments } from "../../api/filaments";

/** The colours of the shelf's filaments, to choose one. */
export function Palette({ value, onChoose }: { value: string; onChoose: (colour: string, name: string) => void }) {
  const { filaments } = useFilaments();
  return (
    <div className="palette" role="group" aria-label="Colours of the shelf">
      {filaments.map(({ id, name, colour }) => (
        <button
          key={id}
          type="button"
          className="part-swatch"
          style={{ background: colour }}
          aria-label={name}
          title={name}
          aria-pressed={colour.toLowerCase() === value.toLowerCase()}
          onClick={() => onChoose(colour.toLowerCase(), name)}
        />
      ))}
    </div>
  );
}
