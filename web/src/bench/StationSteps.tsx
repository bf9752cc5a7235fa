import { STATIONS, useBenchStore, type Station } from "./benchStore";

export const STATION_NAMES: Record<Station, string> = {
  picture: "Picture",
  height: "Height",
  body: "Body",
  proof: "Proof",
  deliver: "Deliver",
};

/** The five stages of a piece, in the order people do them. */
export function StationSteps() {
  const station = useBenchStore((state) => state.station);
  const set = useBenchStore((state) => state.set);
  return (
    <nav aria-label="Stations" className="align-self-stretch d-flex">
      <ol className="steps">
        {STATIONS.map((name, i) => (
          <li key={name}>
            <button
              type="button"
              aria-current={station === name ? "step" : undefined}
              onClick={() => set({ station: name })}
              title={`${STATION_NAMES[name]} (${i + 1})`}
            >
              {STATION_NAMES[name]}
            </button>
          </li>
        ))}
      </ol>
    </nav>
  );
}
