import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { keys, startSheet } from "../api/pieces";
import { useBenchStore } from "../state/benchStore";
import { useGuideStore } from "../state/guideStore";

interface Props {
  onFile: () => void;
  onSheet: () => void;
}

/** What an empty shelf says: three ways to begin. */
export function Greeting({ onFile, onSheet }: Props) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [refusal, setRefusal] = useState<string | null>(null);
  const guide = async () => {
    try {
      const sheet = { width_mm: 90, height_mm: 40, ground: 0, title: "My first plate", text: "Fernhollow", font: "bold" as const, text_height_mm: null, text_tone: 1 };
      const piece = await startSheet(sheet);
      client.setQueryData(keys.piece(piece.id), piece);
      useBenchStore.getState().set({ station: "picture" });
      useGuideStore.getState().begin(piece.id);
      void navigate(`/piece/${piece.id}`);
    } catch (error) {
      setRefusal(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <div className="greeting">
      <h2 className="fs-4">What will you make first?</h2>
      <div className="greeting-ways">
        <Way icon="image" title="From a file" onClick={onFile}>
          A picture, a drawing (SVG, DXF) or a model. Drop it anywhere here, paste it, or choose it. You see at once what it could be.
        </Way>
        <Way icon="plus-square" title="From a new sheet" onClick={onSheet}>
          Say how large it is, write on it, lay shapes on it, paint. Bright stands tall.
        </Way>
        <Way icon="signpost-2" title="Show me, in two minutes" onClick={() => void guide()}>
          A small name plate on the real bench, one step after the other, to the finished file.
        </Way>
      </div>
      {refusal && (
        <p className="measure-refusal" role="alert">
          {refusal}
        </p>
      )}
    </div>
  );
}

function Way({ icon, title, children, onClick }: { icon: string; title: string; children: string; onClick: () => void }) {
  return (
    <button type="button" className="greeting-way" onClick={onClick}>
      <i className={`bi bi-${icon}`} aria-hidden="true" />
      <b>{title}</b>
      <span>{children}</span>
    </button>
  );
}
