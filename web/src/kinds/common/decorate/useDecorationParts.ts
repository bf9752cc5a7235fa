import { usePartSchemas } from "../../../state/partSchemas";

/** Decorations are of one kind, whatever the rest of the document. */
const ANY = {};

/** What the server tells of decorations and strokes. */
export function useDecorationParts() {
  const { part } = usePartSchemas();
  return {
    decoration: part(ANY, "decorations"),
    edge: part(ANY, "decorations.edge"),
    copies: part(ANY, "decorations.copies"),
    pick: part(ANY, "decorations.pick"),
    stroke: part(ANY, "strokes"),
  };
}
