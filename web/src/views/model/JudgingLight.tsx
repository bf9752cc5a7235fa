import Form from "react-bootstrap/Form";
import { useId, useState } from "react";
import { useBenchStore } from "../../state/benchStore";
import type { LeftOut } from "./useBeside";
import { SURFACES, useJudgingStore } from "../../state/judgingStore";

const NAMES = { plaster: "Plaster", clay: "Clay", bronze: "Bronze", wood: "Wood", stone: "Stone" } as const;

/** How form is judged: lights that are kept, how soft they are, what it looks as if made of, what a step did, a picture. */
export function JudgingLight({ steps }: { steps: readonly LeftOut[] }) {
  const [open, setOpen] = useState(false);
  const panel = useId();
  return (
    <div className="judging">
      <button type="button" className="stage-button" aria-expanded={open} aria-controls={panel} onClick={() => setOpen(!open)} title="Lights, surface, and a picture of the stage">
        Light and surface
      </button>
      {open && (
        <div id={panel} className="judging-panel" role="group" aria-label="Light and surface">
          <KeptLights />
          <Surfaces />
          <Softness />
          {steps.length > 0 && <WithoutStep steps={steps} />}
          <button type="button" className="stage-button" onClick={useJudgingStore.getState().takePicture} title="As it is seen, 3,840 pixels wide">
            Save as picture
          </button>
        </div>
      )}
    </div>
  );
}

function KeptLights() {
  const lights = useJudgingStore((state) => state.lights);
  const keepLight = useJudgingStore((state) => state.keepLight);
  const light = useBenchStore((state) => state.light);
  const set = useBenchStore((state) => state.set);
  const [chosen, setChosen] = useState(0);
  const moved = lights[chosen]?.fromDeg !== light.fromDeg || lights[chosen]?.aboveDeg !== light.aboveDeg;
  return (
    <div className="judging-row">
      <span>Light</span>
      {lights.map((kept, at) => (
        <button
          key={at}
          type="button"
          className="stage-button"
          aria-pressed={at === chosen && !moved}
          aria-label={`Light ${at + 1}`}
          title={`From ${kept.fromDeg}°, ${kept.aboveDeg}° high`}
          onClick={() => {
            setChosen(at);
            set({ light: kept });
          }}
        >
          {at + 1}
        </button>
      ))}
      <button type="button" className="stage-button" disabled={!moved} onClick={() => keepLight(chosen, light)} title={`The lamp as it stands becomes light ${chosen + 1}`}>
        Keep as {chosen + 1}
      </button>
    </div>
  );
}

/** The piece without one of its steps beside it, in the same light and seen by the same eye. */
function WithoutStep({ steps }: { steps: readonly LeftOut[] }) {
  const beside = useBenchStore((state) => state.beside);
  const set = useBenchStore((state) => state.set);
  const chosen = steps.find(({ key }) => key === beside?.without);
  return (
    <div className="judging-row">
      <span>Beside</span>
      <Form.Select
        size="sm"
        aria-label="Beside it"
        value={chosen?.key ?? ""}
        onChange={({ currentTarget: { value } }) => {
          const step = steps.find(({ key }) => key === value);
          set({ beside: step ? { without: step.key, name: `Without: ${step.name}` } : null });
        }}
      >
        <option value="">Nothing</option>
        {steps.map(({ key, name }) => (
          <option key={key} value={key}>
            Without: {name}
          </option>
        ))}
      </Form.Select>
    </div>
  );
}

function Softness() {
  const soft = useJudgingStore((state) => state.soft);
  const soften = useJudgingStore((state) => state.soften);
  return (
    <div className="judging-row">
      <span>Shadows</span>
      {[false, true].map((one) => (
        <button
          key={String(one)}
          type="button"
          className="stage-button"
          aria-pressed={one === soft}
          title={one ? "Of a wide lamp, and hollows darker than what lies open: worked out once nothing moves" : "Of a small lamp, at once"}
          onClick={() => soften(one)}
        >
          {one ? "Soft" : "Sharp"}
        </button>
      ))}
    </div>
  );
}

function Surfaces() {
  const surface = useJudgingStore((state) => state.surface);
  const choose = useJudgingStore((state) => state.choose);
  return (
    <div className="judging-row">
      <span>Surface</span>
      {SURFACES.map((one) => (
        <button key={one} type="button" className="stage-button" aria-pressed={one === surface} onClick={() => choose(one)}>
          {NAMES[one]}
        </button>
      ))}
    </div>
  );
}
