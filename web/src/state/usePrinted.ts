import { useBenchStore } from "./benchStore";

const WHERE = ["proof", "deliver"];

/** Whether layers can be looked at: where a piece is proved or delivered, once nothing is dragged. */
export function usePrinted(): boolean {
  return useBenchStore((state) => WHERE.includes(state.station) && state.draft === null);
}
