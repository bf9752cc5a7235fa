import { useBenchStore, type SheetLook } from "../../state/benchStore";
import { SHEET_WORDS } from "./paintSheet";

/** What is shown of a lithophane's sheet, and what beside it. */
export function SheetLooks() {
  const look = useBenchStore((state) => state.sheetLook);
  const beside = useBenchStore((state) => state.sheetBeside);
  const set = useBenchStore((state) => state.set);
  const options = Object.entries(SHEET_WORDS) as [SheetLook, { name: string }][];
  return (
    <div className="sheet-looks" role="toolbar" aria-label="Looks of the sheet">
      <select aria-label="Show" value={look} onChange={(event) => set({ sheetLook: event.currentTarget.value as SheetLook })}>
        {options.map(([each, { name }]) => (
          <option key={each} value={each}>
            {name}
          </option>
        ))}
      </select>
      <select
        aria-label="Beside it"
        value={beside ?? ""}
        onChange={(event) => {
          const chosen = (event.currentTarget.value || null) as SheetLook | null;
          set({ sheetBeside: chosen, divider: chosen ? 0.5 : null });
        }}
      >
        <option value="">Nothing beside</option>
        {options
          .filter(([each]) => each !== look)
          .map(([each, { name }]) => (
            <option key={each} value={each}>
              Beside: {name.toLowerCase()}
            </option>
          ))}
      </select>
    </div>
  );
}
