import type { MergePatch } from "../../../api/preview";

/** The merge patch that sets one value: `patchAt("body.frame.width_mm", 4)`. */
export function patchAt(at: string, value: unknown): MergePatch {
  const [first = "", ...rest] = at.split(".");
  return { [first]: rest.length > 0 ? patchAt(rest.join("."), value) : value };
}
