import type { MergePatch } from "./preview";

/** The target after a JSON merge patch (RFC 7396), as the server applies it. */
export function patched<Target>(target: Target, patch: MergePatch): Target {
  return merge(target, patch) as Target;
}

function merge(target: unknown, patch: unknown): unknown {
  if (!isRecord(patch)) return patch;
  const result = new Map(Object.entries(isRecord(target) ? target : {}));
  for (const [key, value] of Object.entries(patch)) {
    if (value === null) result.delete(key);
    else result.set(key, merge(result.get(key), value));
  }
  return Object.fromEntries(result);
}

function isRecord(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}
