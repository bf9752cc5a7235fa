import { useBenchStore } from "../../state/benchStore";
import { JudgingLight } from "./JudgingLight";
import type { LeftOut } from "./useBeside";

/** Buttons over the stage; `lamp` where a lamp can be put behind the piece. */
export function StageTools({ lamp, steps }: { lamp: boolean; steps: readonly LeftOut[] }) {
  const lampOn = useBenchStore((state) => state.lampOn);
  const turning = useBenchStore((state) => state.turning);
  const wire = useBenchStore((state) => state.wire);
  const set = useBenchStore((state) => state.set);
  return (
    <div className="pane-tools">
      {lamp && (
        <button
          type="button"
          className="stage-button"
          aria-pressed={lampOn}
          onClick={() => set({ lampOn: !lampOn })}
          title="The lamp behind it on and off (L)"
        >
          Lamp behind
        </button>
      )}
      <button
        type="button"
        className="stage-button"
        aria-pressed={turning}
        onClick={() => set({ turning: !turning })}
        title="Let it turn once round and on"
      >
        Turn
      </button>
      <button
        type="button"
        className="stage-button"
        aria-pressed={wire}
        onClick={() => set({ wire: !wire })}
        title="Show the triangles (M)"
      >
        Triangles
      </button>
      <JudgingLight steps={steps} />
    </div>
  );
}
