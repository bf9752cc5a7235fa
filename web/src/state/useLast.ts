import { useState } from "react";

/** The last value that was there; while there is none, the one before. Nothing is kept beyond another `of`. */
export function useLast<Value>(value: Value | undefined, of: string): Value | undefined {
  const [last, setLast] = useState({ of, value });
  if (last.of === of && (value === undefined || value === last.value)) return last.value;
  setLast({ of, value });
  return value;
}
