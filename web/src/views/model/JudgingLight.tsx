import { useId, useState } from "react";
import { useBenchStore } from "../../state/benchStore";
import { SURFACES, useJudgingStore } from "../../state/judgingStore";

const NAMES = { plaster: "Plaster", clay: "Clay", bronze: "Bronze", wood: "Wood", stone: "Stone" } as const;

/** How form is judged: three lights that are kept, what it looks as if made of, and a picture of it. */
export function JudgingLight() {
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
