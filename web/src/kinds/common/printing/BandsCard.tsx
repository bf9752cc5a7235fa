import { useState } from "react";
import Form from "react-bootstrap/Form";
import { useFilaments } from "../../../api/filaments";
import { useLayers, useSuggestedBands } from "../../../api/printing";
import type { ColourBands } from "../../../api/client";
import { usePartSchemas } from "../../../state/partSchemas";
import { useLooked } from "../../../state/useLooked";
import { Button } from "../../../ui/Button";
import { LengthField } from "../../../ui/LengthField";
import { PartCard } from "../fields/PartCard";
import { PartField } from "../fields/PartField";
import type { AnyStationProps } from "../stationProps";
import { amounts } from "./amounts";

type Change = ColourBands["changes"][number];

const AT = "printing.bands";
const COLOURS = [2, 3, 4];
/** Between a change and the next that is added. */
const NEXT_MM = 1;

/** Colours that change at heights: a list, a proposal from the heights, and what each takes. */
export function BandsCard({ pieceId, revision, document, editing }: AnyStationProps) {
  const { bands } = document.printing;
  const work = { document, editing };
  const keep = (what: string, next: Partial<ColourBands>) => editing.keep(what, { printing: { bands: next } });
  const suggest = useSuggestedBands(pieceId);
  const [colours, setColours] = useState(2);
  const propose = () => suggest.mutate(colours, { onSuccess: (found) => keep(`${colours} colours by layers`, found) });
  return (
    <PartCard {...work} at={AT} hint="off">
      <div className="band is-first">
        <Tint label="Colour below" of={bands} onKeep={(next) => keep("Colour below", next)} />
      </div>
      {bands.changes.map((change, at) => (
        <BandRow
          key={at}
          at={at}
          change={change}
          work={work}
          onDrag={(next) => editing.drag({ printing: { bands: { changes: changed(bands.changes, at, next) } } })}
          onKeep={(what, next) => keep(what, { changes: changed(bands.changes, at, next) })}
          onDrop={() => keep("One colour less", { changes: bands.changes.filter((_, each) => each !== at) })}
        />
      ))}
      <div className="d-flex flex-wrap gap-2 align-items-center">
        <Button
          size="sm"
          variant="outline-secondary"
          onClick={() => keep("Another colour", { changes: [...bands.changes, { from_mm: (bands.changes.at(-1)?.from_mm ?? 0) + NEXT_MM, colour: "#e9dfcd", name: "" }] })}
        >
          <i className="bi bi-plus-lg me-1" aria-hidden="true" />
          Add a change
        </Button>
        <Form.Select size="sm" className="w-auto" aria-label="How many colours" value={colours} onChange={({ currentTarget }) => setColours(Number(currentTarget.value))}>
          {COLOURS.map((count) => (
            <option key={count} value={count}>
              {count} colours
            </option>
          ))}
        </Form.Select>
        <Button size="sm" variant="outline-secondary" disabled={suggest.isPending} onClick={propose}>
          Propose from the heights
        </Button>
      </div>
      {suggest.error && (
        <p className="measure-refusal" role="alert">
          {suggest.error.message}
        </p>
      )}
      <PartField {...work} at="printing.colour_change_s" />
      {bands.changes.length > 0 && <Takes pieceId={pieceId} revision={revision} changes={bands.changes.length} />}
      <p className="quiet-label">3MF, OBJ and GLB hold a body for each colour; other formats one solid, and the print card tells the layers.</p>
    </PartCard>
  );
}

interface RowProps {
  at: number;
  change: Change;
  work: Pick<AnyStationProps, "document">;
  onDrag: (next: Partial<Change>) => void;
  onKeep: (what: string, next: Partial<Change>) => void;
  onDrop: () => void;
}

function BandRow({ at, change, work, onDrag, onKeep, onDrop }: RowProps) {
  const field = usePartSchemas().kinds(work.document, `${AT}.changes`)[""]?.fields.find(({ name }) => name === "from_mm");
  return (
    <section className="band" aria-label={`Change ${at + 1}`}>
      <LengthField
        label="From"
        value={change.from_mm}
        lowest={field?.lowest ?? 0.01}
        highest={field?.highest ?? 5000}
        step={field?.step ?? 0.2}
        onDrag={(from_mm) => onDrag({ from_mm })}
        onKeep={(from_mm) => onKeep(`Colour from ${from_mm} mm`, { from_mm })}
      />
      <Tint label={`Colour of change ${at + 1}`} of={change} onKeep={(next) => onKeep("Another colour", next)} />
      <button type="button" className="icon-button" aria-label={`Drop change ${at + 1}`} onClick={onDrop}>
        <i className="bi bi-x-lg" aria-hidden="true" />
      </button>
    </section>
  );
}

/** A colour, by itself or as a filament of the table. */
function Tint({ label, of, onKeep }: { label: string; of: { colour: string; name: string }; onKeep: (next: { colour: string; name: string }) => void }) {
  const { filaments } = useFilaments();
  const own = filaments.find(({ name, colour }) => name === of.name && colour === of.colour);
  return (
    <div className="d-flex gap-1 align-items-center flex-grow-1">
      <Form.Control type="color" size="sm" aria-label={label} value={of.colour} onChange={({ currentTarget }) => onKeep({ colour: currentTarget.value, name: "" })} />
      <Form.Select
        size="sm"
        aria-label={`${label}, as a filament`}
        value={own?.id ?? ""}
        onChange={({ currentTarget }) => {
          const chosen = filaments.find(({ id }) => String(id) === currentTarget.value);
          if (chosen) onKeep({ colour: chosen.colour, name: chosen.name });
        }}
      >
        <option value="">{of.name || "Its own"}</option>
        {filaments.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </Form.Select>
    </div>
  );
}

/** What every colour takes, by the layers as they are. */
function Takes({ pieceId, revision, changes }: Pick<AnyStationProps, "pieceId" | "revision"> & { changes: number }) {
  const { data, isPlaceholderData } = useLayers(useLooked(pieceId, revision), true);
  if (!data) return <p className="quiet-label">Cutting into layers …</p>;
  const left = isPlaceholderData ? 0 : changes + 1 - data.bands.length;
  return (
    <>
      {left > 0 && (
        <p className="measure-refusal">
          {left === 1 ? "A change lies" : `${left} changes lie`} above the piece, or within the layer of another, and {left === 1 ? "is" : "are"} left out.
        </p>
      )}
      <ul className={isPlaceholderData ? "band-takes is-awaited" : "band-takes"} aria-label="What each colour takes">
        {data.bands.map((band) => (
          <li key={band.layers[0]}>
            <i style={{ background: band.colour }} aria-hidden="true" />
            <span>
              {band.name || band.colour}, from layer {band.layers[0].toLocaleString("en")}
            </span>
            <span className="quiet-label">{amounts(band)}</span>
          </li>
        ))}
      </ul>
    </>
  );
}

function changed(changes: readonly Change[], at: number, next: Partial<Change>): Change[] {
  return changes.map((change, each) => (each === at ? { ...change, ...next } : change));
}
