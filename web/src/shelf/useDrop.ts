import { useEffect, useRef, useState } from "react";

/** Take the first file that is dropped anywhere on the page; true while one is dragged over it. */
export function useDrop(onFile: (file: File) => void): boolean {
  const [dragging, setDragging] = useState(false);
  const latest = useRef(onFile);
  useEffect(() => {
    latest.current = onFile;
  });
  useEffect(() => {
    const over = (event: DragEvent) => {
      if (!event.dataTransfer?.types.includes("Files")) return;
      event.preventDefault();
      setDragging(true);
    };
    const leave = (event: DragEvent) => {
      if (event.relatedTarget === null) setDragging(false);
    };
    const drop = (event: DragEvent) => {
      event.preventDefault();
      setDragging(false);
      const file = event.dataTransfer?.files[0];
      if (file) latest.current(file);
    };
    window.addEventListener("dragover", over);
    window.addEventListener("dragleave", leave);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", over);
      window.removeEventListener("dragleave", leave);
      window.removeEventListener("drop", drop);
    };
  }, []);
  return dragging;
}
