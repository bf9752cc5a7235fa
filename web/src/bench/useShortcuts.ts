import { useEffect } from "react";
import { useNavigate } from "react-router";
import type { PieceView } from "../api/client";
import { useStep } from "../api/pieces";
import { useBenchStore } from "../state/benchStore";

/** The bench's keys; none of them acts while a person types. */
export function useShortcuts(piece: PieceView, onList: () => void): void {
  const { mutate: undo } = useStep(piece.id, "undo");
  const { mutate: redo } = useStep(piece.id, "redo");
  const navigate = useNavigate();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLInputElement && event.target.type === "text";
      if (typing || event.altKey) return;
      const { set, wire, unit, lampOn, byLayers, layer } = useBenchStore.getState();
      if (event.ctrlKey || event.metaKey) {
        if (event.key.toLowerCase() !== "z") return;
        event.preventDefault();
        if (event.shiftKey) redo();
        else undo();
        return;
      }
      const station = piece.stations[Number(event.key) - 1];
      if (station) set({ station: station.name });
      else if (event.key === "m") set({ wire: !wire });
      else if (event.key === "l") set({ lampOn: !lampOn });
      else if (event.key === "y") set({ byLayers: !byLayers });
      else if (event.key === "," && byLayers) set({ layer: Math.max(1, layer - 1) });
      else if (event.key === "." && byLayers) set({ layer: layer + 1 });
      else if (event.key === "u") set({ unit: unit === "mm" ? "in" : "mm" });
      else if (event.key === "b") void navigate("/");
      else if (event.key === "?") onList();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [piece.stations, undo, redo, navigate, onList]);
}
