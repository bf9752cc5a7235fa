import type { PieceView } from "../api/client";
import { useBenchStore } from "../state/benchStore";

/** The stages of a piece, in the order people do them. */
export function StationSteps({ stations }: Pick<PieceView, "stations">) {
  const open = useBenchStore((state) => state.station);
  const set = useBenchStore((state) => state.set);
  return (
    <nav aria-label="Stations" className="align-self-stretch d-flex">
      <ol className="steps">
        {stations.map(({ name, title }, i) => (
          <li key={name}>
            <button type="button" aria-current={open === name ? "step" : undefined} onClick={() => set({ station: name })} title={`${title} (${i + 1})`}>
              {title}
            </button>
          </li>
        ))}
      </ol>
    </nav>
  );
}
