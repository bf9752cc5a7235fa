import { useEffect, useState } from "react";

/** A value that follows `value` once the page has painted, so that heavy drawing never holds back light drawing. */
export function useAfterPaint<Value>(value: Value): Value {
  const [shown, setShown] = useState(value);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    const frame = requestAnimationFrame(() => {
      timer = setTimeout(() => setShown(value));
    });
    return () => {
      cancelAnimationFrame(frame);
      clearTimeout(timer);
    };
  }, [value]);
  return shown;
}
