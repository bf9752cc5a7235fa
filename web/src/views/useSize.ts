import { useEffect, useRef, useState, type RefObject } from "react";

/** The size of an element in CSS pixels, followed as it changes. */
export function useSize<E extends Element>(): [RefObject<E | null>, { width: number; height: number }] {
  const ref = useRef<E | null>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  useEffect(() => {
    if (!ref.current) return;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    observer.observe(ref.current);
    return () => observer.disconnect();
  }, []);
  return [ref, size];
}
