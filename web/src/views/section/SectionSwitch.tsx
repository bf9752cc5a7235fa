import { useBenchStore } from "../../state/benchStore";
import { usePrinted } from "../../state/usePrinted";

const WAYS = [
  { byLayers: false, icon: "bi-slash-lg", words: "along the line" },
  { byLayers: true, icon: "bi-layers", words: "by layers" },
];

/** Whether the section runs along its line, or level through the layers that are printed. */
export function SectionSwitch() {
  const chosen = useBenchStore((state) => state.byLayers);
  const set = useBenchStore((state) => state.set);
  if (!usePrinted()) return null;
  return (
    <span className="section-switch" role="group" aria-label="Along the line or by layers">
      {WAYS.map(({ byLayers, icon, words }) => (
        <button key={words} type="button" className="icon-button py-0" aria-pressed={chosen === byLayers} title={`${words} (Y)`} onClick={() => set({ byLayers })}>
          <i className={`bi ${icon} me-1`} aria-hidden="true" />
          {words}
        </button>
      ))}
    </span>
  );
}
