import type { AnyDocument } from "../../api/client";
import { usePiece } from "../../api/pieces";
import { useBenchStore } from "../../state/benchStore";
import type { Spot } from "../../state/benchStore";

/** The stock around a piece: its lower left corner, size and zero point, mm from the piece's lower left corner. */
export interface Stock {
  left: number;
  low: number;
  width: number;
  depth: number;
  zero: Spot;
}

/** Where the stock of a router lies around a piece of that size. */
export function stockOf({ on, stock }: AnyDocument["carving"], [width, depth]: readonly number[]): Stock | null {
  if (!on || width === undefined || depth === undefined) return null;
  const typed = stock.lies === "typed";
  const left = typed ? -stock.left_mm : (width - stock.width_mm) / 2;
  const low = typed ? -stock.low_mm : (depth - stock.depth_mm) / 2;
  const share = stock.zero === "corner" ? 0 : 0.5;
  return { left, low, width: stock.width_mm, depth: stock.depth_mm, zero: { x: left + share * stock.width_mm, y: low + share * stock.depth_mm } };
}

/** The stock while a piece for a router is looked at at Deliver. */
export function useStock(pieceId: string, size: readonly number[]): Stock | null {
  const carving = usePiece(pieceId).data?.document.carving;
  const atDeliver = useBenchStore((state) => state.station === "deliver");
  return carving && atDeliver ? stockOf(carving, size) : null;
}
