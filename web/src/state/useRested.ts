import { useEffect, useState } from "react";

/** The newest value, once nothing newer came for a while; at once where it does not come from a moving hand. */
export function useRested<Value>(value: Value, moving: boolean, restMs: number): Value {
  const [rested, setRested] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setRested(value), moving ? restMs : 0);
    return () => clearTimeout(timer);
  }, [value, moving, restMs]);
  return rested;
}
