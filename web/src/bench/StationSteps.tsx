import { isLithophane, isModel, isOutlined, isTraced, type AnyDocument } from "../api/client";
import { STATIONS, useBenchStore, type Station } from "./benchStore";

export const STATION_NAMES: Record<Station, string> = {
  picture: "Picture",
  height: "Height",
  body: "Body",
  proof: "Proof",
  deliver: "Deliver",
};

/** What the stations are on a piece: which have nothing to do there, and why. */
function stationsOf(document: AnyDocument): { idle: readonly Station[]; why: string; names: Record<Station, string> } {
  const second = isLithophane(document) ? "Light" : isOutlined(document) ? "Outlines" : STATION_NAMES.height;
  const names = { ...STATION_NAMES, height: second };
  if (isModel(document)) return { idle: ["picture", "height"], why: "This piece starts from a model", names };
  if (isOutlined(document) && !isTraced(document)) return { idle: ["picture"], why: "This piece starts from a drawing", names };
  return { idle: [], why: "", names };
}

/** Whether a station has something to do on a piece. */
export function isUsed(station: Station, document: AnyDocument): boolean {
  return !stationsOf(document).idle.includes(station);
}

/** The five stages of a piece, in the order people do them. */
export function StationSteps({ document }: { document: AnyDocument }) {
  const station = useBenchStore((state) => state.station);
  const set = useBenchStore((state) => state.set);
  const { idle, why, names } = stationsOf(document);
  return (
    <nav aria-label="Stations" className="align-self-stretch d-flex">
      <ol className="steps">
        {STATIONS.map((name, i) => (
          <li key={name}>
            <button
              type="button"
              aria-current={station === name ? "step" : undefined}
              onClick={() => set({ station: name })}
              disabled={idle.includes(name)}
              title={idle.includes(name) ? why : `${names[name]} (${i + 1})`}
            >
              {names[name]}
            </button>
          </li>
        ))}
      </ol>
    </nav>
  );
}
