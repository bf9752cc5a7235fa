import { useState } from "react";
import Form from "react-bootstrap/Form";
import { useFilaments } from "../../api/filaments";
import { Button } from "../../ui/Button";
import type { FigureStationProps } from "../common/stationProps";

const NEW_COLOUR = "#b8b8b8";

/** The filaments of the table: which of them the figure may have, and their names and colours. */
export function FilamentPicker({ document, editing }: Pick<FigureStationProps, "document" | "editing">) {
  const { filaments, add, change, drop } = useFilaments();
  const [name, setName] = useState("");
  const [colour, setColour] = useState(NEW_COLOUR);
  const chosen = document.figure.few.filaments;
  const keep = (what: string, next: readonly { name: string; colour: string }[]) =>
    editing.keep(what, { figure: { few: { filaments: next } } });
  const own = (each: { name: string }) => chosen.some((taken) => taken.name === each.name);
  const keepNew = () => {
    const typed = name.trim();
    if (typed) add.mutate({ name: typed, colour }, { onSuccess: () => setName("") });
  };
  const refused = add.error ?? change.error;
  return (
    <fieldset className="filaments">
      <legend>My filaments</legend>
      {filaments.map((each) => (
        <div key={each.id} className="filament">
          <Form.Check
            type="checkbox"
            id={`filament-${each.id}`}
            label={each.name}
            checked={own(each)}
            onChange={({ currentTarget }) =>
              currentTarget.checked
                ? keep(`With ${each.name}`, [...chosen, { name: each.name, colour: each.colour }])
                : keep(`Without ${each.name}`, chosen.filter((taken) => taken.name !== each.name))
            }
          />
          <Form.Control
            type="color"
            size="sm"
            aria-label={`Colour of ${each.name}`}
            defaultValue={each.colour}
            onBlur={({ currentTarget }) => currentTarget.value !== each.colour && change.mutate({ ...each, colour: currentTarget.value })}
          />
          <button type="button" className="icon-button" aria-label={`Drop ${each.name}`} onClick={() => drop.mutate(each.id)}>
            <i className="bi bi-x-lg" aria-hidden="true" />
          </button>
        </div>
      ))}
      <div className="filament">
        <Form.Control
          size="sm"
          type="text"
          placeholder="Another filament …"
          aria-label="Name of a new filament"
          value={name}
          maxLength={80}
          onChange={(event) => setName(event.currentTarget.value)}
          onKeyDown={(event) => event.key === "Enter" && keepNew()}
        />
        <Form.Control
          type="color"
          size="sm"
          aria-label="Colour of a new filament"
          value={colour}
          onChange={(event) => setColour(event.currentTarget.value)}
        />
        <Button size="sm" onClick={keepNew} disabled={!name.trim()}>
          Add
        </Button>
      </div>
      {refused && <p role="alert">{refused.message}</p>}
      {chosen.length === 0 && <p className="quiet-label">None is chosen, so the picture’s own colours are taken.</p>}
    </fieldset>
  );
}
