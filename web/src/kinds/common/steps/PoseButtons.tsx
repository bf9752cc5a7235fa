import { useEffect, useRef } from "react";
import { usePoseStore, type Turn } from "../../../state/poseStore";

const WAYS = [
  { mode: "rings", label: "Turn by hand", hint: "Drag a ring round the model; every turn becomes a step." },
  { mode: "face", label: "This face down", hint: "Press the face of the model that is to lie below." },
] as const;

/** Turn the model in the Model itself: by rings, or by pointing at the face that is to lie below. */
export function PoseButtons({ onTurn }: { onTurn: (turn: Turn) => void }) {
  const mode = usePoseStore((state) => state.mode);
  const set = usePoseStore((state) => state.set);
  const latest = useRef(onTurn);
  useEffect(() => {
    latest.current = onTurn;
  });
  useEffect(() => {
    set({
      keep: (turn) => {
        latest.current(turn);
        if (usePoseStore.getState().mode === "face") set({ mode: null });
      },
    });
    return () => set({ mode: null, keep: null });
  }, [set]);
  const shown = WAYS.find((way) => way.mode === mode);
  return (
    <>
      <div className="d-flex gap-2" role="group" aria-label="Turn it by hand or by a face">
        {WAYS.map((way) => (
          <button
            key={way.mode}
            type="button"
            className="btn btn-sm btn-outline-secondary flex-grow-1"
            aria-pressed={mode === way.mode}
            title={way.hint}
            onClick={() => set({ mode: mode === way.mode ? null : way.mode })}
          >
            {way.label}
          </button>
        ))}
      </div>
      {shown && <p className="quiet-label mb-0">{shown.hint}</p>}
    </>
  );
}
