import Form from "react-bootstrap/Form";
import { fetchSnap, type Decoration, type Snap } from "../../../api/decorations";
import { Button } from "../../../ui/Button";
import { Choice } from "../../../ui/Choice";
import { LengthField } from "../../../ui/LengthField";
import { NumberField } from "../../../ui/NumberField";
import { CopiesFields } from "./CopiesFields";
import { upOf } from "./decorations";
import { useDecorStore } from "../../../state/decorStore";
import { RegionFields } from "./RegionFields";
import { useModel } from "../../../state/previews";

type Change = Partial<Decoration>;

export interface DecorationFieldsProps {
  decoration: Decoration;
  onDrag: (change: Change) => void;
  onKeep: (what: string, change: Change) => void;
}

const LIES = [
  { value: "follow", label: "Follow" },
  { value: "wrap", label: "Wrap" },
  { value: "project", label: "Straight on" },
] as const;
const LIE_HINTS = {
  follow: "By the skin's own lengths, whatever its shape.",
  wrap: "Unrolled from the cylinder, cone or sphere that the skin is part of.",
  project: "As it is seen from straight in front; sides that turn away are stretched.",
} as const;
const WAYS: readonly { value: readonly [number, number, number]; label: string }[] = [
  { value: [0, 1, 0], label: "From the front" },
  { value: [0, -1, 0], label: "From the back" },
  { value: [1, 0, 0], label: "From the left" },
  { value: [-1, 0, 0], label: "From the right" },
  { value: [0, 0, -1], label: "From above" },
  { value: [0, 0, 1], label: "From below" },
];
const EFFECTS = [
  { value: "raise", label: "Raised" },
  { value: "sink", label: "Sunk" },
  { value: "both", label: "Both ways from middle gray" },
  { value: "colour", label: "Colour only" },
  { value: "picture", label: "Picture only" },
] as const;
const TALL = [
  { value: "bright", label: "Bright" },
  { value: "dark", label: "Dark" },
] as const;
const EDGES = [
  { value: "square", label: "Square" },
  { value: "bevel", label: "Bevelled" },
  { value: "fade", label: "Faded" },
] as const;
const SIDES = [
  { value: "around", label: "All around" },
  { value: "left", label: "Towards the left" },
  { value: "right", label: "Towards the right" },
  { value: "top", label: "Towards the top" },
  { value: "bottom", label: "Towards the bottom" },
] as const;
const OVERLAPS = [
  { value: "highest", label: "Highest" },
  { value: "sum", label: "Sum" },
  { value: "last", label: "Last" },
] as const;
const SNAPS: readonly { to: Snap; label: string }[] = [
  { to: "face-centre", label: "Middle of the face" },
  { to: "axis", label: "Every 15° round" },
  { to: "half-height", label: "Half height" },
];

/** Everything about one decoration that can be typed. */
export function DecorationFields({ pieceId, decoration, onDrag, onKeep }: DecorationFieldsProps & { pieceId: string }) {
  const { art, edge, effect } = decoration;
  const moves = effect !== "colour" && effect !== "picture";
  const told = useDecorStore((state) => (state.placed?.id === decoration.id ? state.placement?.head : undefined));
  const set = useDecorStore((state) => state.set);
  const standing = (useModel()?.standing ?? false);
  const snap = (to: Snap, words: string) =>
    fetchSnap(pieceId, decoration.at, decoration.up, to).then(
      (at) => onKeep(words.toLowerCase(), { at: [...at] as [number, number, number] }),
      (error: Error) => set({ refusal: error.message }),
    );
  return (
    <div className="decor-fields">
      <LengthField label="Width" value={decoration.width_mm} lowest={0.1} highest={3000} step={0.5} slider={{ from: 2, to: Math.max(60, decoration.width_mm) }} onDrag={(width_mm) => onDrag({ width_mm })} onKeep={(width_mm) => onKeep(`${width_mm} mm wide`, { width_mm })} />
      <NumberField label="Turn" unit="°" value={decoration.turn_deg} lowest={-360} highest={360} step={1} slider={{ from: -180, to: 180 }} onDrag={(turn_deg) => onDrag({ turn_deg })} onKeep={(turn_deg) => onKeep(`turned ${turn_deg}°`, { turn_deg })} />
      <Form.Check id={`mirror-${decoration.id}`} type="switch" label="Mirror" checked={decoration.mirror} onChange={(event) => onKeep(event.currentTarget.checked ? "mirrored" : "not mirrored", { mirror: event.currentTarget.checked })} />
      <div>
        <div className="mb-1">How it lies</div>
        <Choice label="How it lies" value={decoration.lie} options={LIES} onChange={(lie) => onKeep(`lies ${lie}`, { lie })} />
        <p className="quiet-label mt-1">
          {LIE_HINTS[decoration.lie]} {told && decoration.lie === "wrap" && `Here: a ${told.told}.`} {told && told.most_stretch > 0.005 && `Stretched by up to ${Math.round(told.most_stretch * 100)} %.`}
        </p>
      </div>
      {decoration.lie === "project" && (
        <Form.Select
          size="sm"
          aria-label="Seen along"
          value={decoration.along?.join() ?? ""}
          onChange={(event) => onKeep("direction", { along: (WAYS.find(({ value }) => value.join() === event.currentTarget.value)?.value as [number, number, number] | undefined) ?? null })}
        >
          <option value="">Straight into the skin</option>
          {WAYS.map(({ value, label }) => (
            <option key={label} value={value.join()}>
              {label}
            </option>
          ))}
        </Form.Select>
      )}
      <div>
        <label className="mb-1" htmlFor={`effect-${decoration.id}`}>
          What it does
        </label>
        <Form.Select id={`effect-${decoration.id}`} size="sm" value={effect} onChange={(event) => onKeep("effect", { effect: event.currentTarget.value as Decoration["effect"] })}>
          {EFFECTS.filter(({ value }) => art.kind === "picture" || (value !== "both" && value !== "picture")).map(({ value, label }) => (
            <option key={value} value={value}>
              {label}
            </option>
          ))}
        </Form.Select>
      </div>
      {effect === "colour" && (
        <Form.Group controlId={`colour-${decoration.id}`} className="d-flex align-items-center gap-2">
          <Form.Label className="mb-0">Colour</Form.Label>
          <Form.Control type="color" size="sm" value={decoration.colour} onChange={(event) => onKeep("colour", { colour: event.currentTarget.value })} />
        </Form.Group>
      )}
      {moves && (
        <LengthField label="Depth" value={decoration.depth_mm} lowest={0.01} highest={100} step={0.05} slider={{ from: 0.1, to: Math.max(3, decoration.depth_mm) }} onDrag={(depth_mm) => onDrag({ depth_mm })} onKeep={(depth_mm) => onKeep(`${depth_mm} mm deep`, { depth_mm })} />
      )}
      {art.kind === "picture" && moves && (
        <div>
          <div className="mb-1">Which tones stand tall?</div>
          <Choice label="Which tones stand tall?" value={decoration.tall} options={TALL} onChange={(tall) => onKeep(`${tall} tones stand tall`, { tall })} />
        </div>
      )}
      {moves && !decoration.tiled && (
        <>
          <div>
            <div className="mb-1">Edge</div>
            <Choice label="Edge" value={edge.profile} options={EDGES} onChange={(profile) => onKeep(`${profile} edge`, { edge: { ...edge, profile } })} />
          </div>
          {edge.profile !== "square" && (
            <>
              <LengthField label="Width of the edge" value={edge.width_mm} lowest={0.01} highest={1000} step={0.25} slider={{ from: 0.25, to: Math.max(20, edge.width_mm) }} onDrag={(width_mm) => onDrag({ edge: { ...edge, width_mm } })} onKeep={(width_mm) => onKeep(`edge of ${width_mm} mm`, { edge: { ...edge, width_mm } })} />
              <Form.Select size="sm" aria-label="Side that fades" value={edge.side} onChange={(event) => onKeep("side that fades", { edge: { ...edge, side: event.currentTarget.value as Decoration["edge"]["side"] } })}>
                {SIDES.map(({ value, label }) => (
                  <option key={value} value={value}>
                    {label}
                  </option>
                ))}
              </Form.Select>
            </>
          )}
        </>
      )}
      <CopiesFields decoration={decoration} onDrag={onDrag} onKeep={onKeep} />
      <RegionFields decoration={decoration} onDrag={onDrag} onKeep={onKeep} />
      <div>
        <div className="mb-1">Where decorations meet</div>
        <Choice label="Where decorations meet" value={decoration.overlap} options={OVERLAPS} onChange={(overlap) => onKeep(`${overlap} where they meet`, { overlap })} />
      </div>
      <div>
        <div className="mb-1">Place</div>
        <div className="decor-place">
          {(["X", "Y", "Z"] as const).map((axis, at) => (
            <LengthField
              key={axis}
              label={axis}
              value={Math.round((decoration.at[at] ?? 0) * 1000) / 1000}
              lowest={-1e6}
              highest={1e6}
              step={0.5}
              onKeep={(value) => onKeep(`${axis} ${value} mm`, { at: decoration.at.map((side, i) => (i === at ? value : side)) as [number, number, number] })}
            />
          ))}
        </div>
        <div className="d-flex flex-wrap gap-1 mt-1">
          {SNAPS.map(({ to, label }) => (
            <Button key={to} size="sm" variant="outline-secondary" onClick={() => void snap(to, label)}>
              {label}
            </Button>
          ))}
          <Button size="sm" variant="outline-secondary" onClick={() => onKeep("upright", { up: upOf(standing), turn_deg: 0 })}>
            Upright
          </Button>
        </div>
      </div>
    </div>
  );
}
