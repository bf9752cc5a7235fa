import type { useSectionHeight } from "./useSectionHeight";

/** Folds the section to its name, and back. */
export function FoldButton({ folded, setFolded }: Pick<ReturnType<typeof useSectionHeight>, "folded" | "setFolded">) {
  const words = folded ? "Unfold the section" : "Fold the section";
  return (
    <button type="button" className="icon-button py-0" aria-expanded={!folded} aria-label={words} title={words} onClick={() => setFolded(!folded)}>
      <i className={`bi bi-chevron-${folded ? "up" : "down"}`} aria-hidden="true" />
    </button>
  );
}
