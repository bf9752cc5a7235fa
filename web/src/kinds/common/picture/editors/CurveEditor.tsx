import { CurveGraph } from "../../../../ui/CurveGraph";
import type { CurvePoints } from "../../../../ui/curvePoints";
import type { EditorProps } from "./editorProps";
import { useComingIn } from "./useComingIn";

/** The curve from tones that come in to tones that go out, over the histogram of what comes in. */
export function CurveEditor(props: EditorProps) {
  return (
    <CurveGraph
      label="Tone curve"
      points={props.op.points as CurvePoints}
      counts={useComingIn(props)}
      tell={(tone, becomes) => `tone ${Math.round(tone * 100)} % becomes ${Math.round(becomes * 100)} %`}
      onDrag={(points) => props.onDrag({ points })}
      onKeep={(what, points) => props.onKeep(what, { points })}
    />
  );
}
