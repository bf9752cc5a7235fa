import { STATIONS, useBenchStore, type Station } from "./benchStore";

export const STATION_NAMES: Record<Station, string> = {
  picture: "Picture",
  height: "Height",
  body: "Body",
  proof: "Proof",
  deliver: "Deliver",
};

/** Whether a station has something to do on a piece without a picture. */
export function isForModels(station: Station): boolean {
  return station !== "picture" && station !== "height";
}

/** The five stages of a piece, in the order people do them. */
export function StationSteps({ ofModel }: { ofModel: boolean }) {
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
              disabled={ofModel && !isForModels(name)}
              title={ofModel && !isForModels(name) ? "This piece starts from a model" : `${STATION_NAMES[name]} (${i + 1})`}
            >
              {STATION_NAMES[name]}
            </button>
          </li>
        ))}
      </ol>
    </nav>
  );
}
