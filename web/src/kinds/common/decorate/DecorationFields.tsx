import Form from "react-bootstrap/Form";
import { fetchSnap, type Decoration, type Snap } from "../../../api/decorations";
import { fieldNamed } from "../../../api/parts";
import { Button } from "../../../ui/Button";
import { LengthField } from "../../../ui/LengthField";
import { FieldControl } from "../fields/FieldControl";
import { RowFields } from "../fields/RowFields";
import { CopiesFields } from "./CopiesFields";
import { upOf } from "./decorations";
import { useDecorStore } from "../../../state/decorStore";
import { RegionFields } from "./RegionFields";
import { useDecorationParts } from "./useDecorationParts";
import { useModel } from "../../../state/previews";

type Change = Partial<Decoration>;

export interface DecorationFieldsProps {
  decoration: Decoration;
  onDrag: (change: Change) => void;
  onKeep: (what: string, change: Change) => void;
}

const WAYS: readonly { value: readonly [number, number, number]; label: string }[] = [
  { value: [0, 1, 0], label: "From the front" },
  { value: [0, -1, 0], label: "From the back" },
  { value: [1, 0, 0], label: "From the left" },
  { value: [-1, 0, 0], label: "From the right" },
  { value: [0, 0, -1], label: "From above" },
  { value: [0, 0, 1], label: "From below" },
];
const SNAPS: readonly { to: Snap; label: string }[] = [
  { to: "face-centre", label: "Middle of the face" },
  { to: "axis", label: "Every 15° round" },
  { to: "half-height", label: "Half height" },
];

/** Everything about one decoration that can be typed. */
export function DecorationFields({ pieceId, decoration, onDrag, onKeep }: DecorationFieldsProps & { pieceId: string }) {
  const { art, edge, effect } = decoration;
  const parts = useDecorationParts();
  const fields = (...only: (keyof Decoration)[]) => <RowFields part={parts.decoration} row={decoration} only={only} onDrag={onDrag} onKeep={onKeep} />;
  const moves = effect !== "colour" && effect !== "picture";
  const placed = useDecorStore((state) => (state.placed?.id === decoration.id ? state.placement?.head : undefined));
  const set = useDecorStore((state) => state.set);
  const standing = (useModel()?.standing ?? false);
  const snap = (to: Snap, words: string) =>
    fetchSnap(pieceId, decoration.at, decoration.up, to).then(
      (at) => onKeep(words.toLowerCase(), { at: [...at] as [number, number, number] }),
      (error: Error) => set({ refusal: error.message }),
    );
  return (
    <div className="decor-fields">
      {fields("width_mm", "turn_deg", "mirror", "lie", "rim", "distort")}
      <p className="quiet-label">
          {fieldNamed(parts.decoration, "lie").hints[decoration.lie]} {placed && decoration.lie === "wrap" && `Here: a ${placed.description}.`} {placed && placed.most_stretch > 0.005 && `Stretched by up to ${Math.round(placed.most_stretch * 100)} %.`}
      </p>
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
      <FieldControl
        field={fieldNamed(parts.decoration, "effect")}
        offered={(value) => art.kind === "picture" || (value !== "both" && value !== "picture")}
        value={effect}
        onKeep={(next, words) => onKeep(words, { effect: next as Decoration["effect"] })}
      />
      {fields("colour", "depth_mm")}
      {art.kind === "picture" && moves && fields("tall", ...(decoration.tiled ? [] : (["curves"] as const)))}
      {moves && !decoration.tiled && (
        <RowFields
          part={parts.edge}
          row={edge}
          onDrag={(change) => onDrag({ edge: { ...edge, ...change } })}
          onKeep={(what, change) => onKeep(what, { edge: { ...edge, ...change } })}
        />
      )}
      <CopiesFields decoration={decoration} onDrag={onDrag} onKeep={onKeep} />
      <RegionFields decoration={decoration} onDrag={onDrag} onKeep={onKeep} />
      {fields("overlap")}
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
