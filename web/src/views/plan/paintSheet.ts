import type { HeightGrid } from "../../api/preview";
import type { SheetLook } from "../../state/benchStore";
import { paintDifference, paintLit, paintThickness, paintWanted, straightSheet } from "../transmission";
import type { TransmissionLook } from "../../state/previews";

export const SHEET_WORDS: Record<SheetLook, { name: string; short: string }> = {
  lit: { name: "Lit", short: "lit" },
  wanted: { name: "Wanted picture", short: "wanted" },
  straight: { name: "Lit, straight thickness", short: "straight" },
  difference: { name: "Lit against wanted", short: "difference" },
  thickness: { name: "Thickness", short: "thickness" },
};

/** RGBA of a lithophane's sheet. */
export function paintSheet(grid: HeightGrid, look: SheetLook, transmission: TransmissionLook): Uint8ClampedArray<ArrayBuffer> {
  switch (look) {
    case "lit":
      return paintLit({ ...grid, mm: grid.heights }, transmission, grid.lit);
    case "wanted":
      return paintWanted(grid);
    case "straight":
      return paintLit(straightSheet(grid, transmission), transmission);
    case "difference":
      return paintDifference(grid, transmission);
    case "thickness":
      return paintThickness(grid, transmission);
  }
}
