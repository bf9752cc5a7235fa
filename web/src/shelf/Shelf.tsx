import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Button } from "../ui/Button";
import { loadStage } from "../views/model/loadStage";
import { useNavigate } from "react-router";
import { Refused, type PieceView } from "../api/client";
import { keys, startDrawing, startModel, startPiece, useShelf } from "../api/pieces";
import { MotifsPanel } from "../views/motifs/MotifsPanel";
import { DropVeil } from "./DropVeil";
import { PieceTile } from "./PieceTile";
import { RemovedStrip } from "./RemovedStrip";
import { UnitQuestion } from "./UnitQuestion";
import { useDrop } from "./useDrop";

const MODELS = [".stl", ".obj", ".ply", ".off", ".3mf", ".glb"];
const DRAWINGS = [".svg", ".dxf"];
const ACCEPT = [".png,.jpg,.jpeg,.tif,.tiff,.webp,.bmp", ...MODELS, ...DRAWINGS].join(",");

interface Question {
  file: File;
  sizes: Record<string, [number, number, number]>;
}

/** All pieces; drop a picture anywhere to start one. */
export function Shelf() {
  const shelf = useShelf();
  const client = useQueryClient();
  const navigate = useNavigate();
  const picker = useRef<HTMLInputElement>(null);
  const [motifs, setMotifs] = useState(false);
  const [busy, setBusy] = useState<string | null>(null);
  const [refusal, setRefusal] = useState<string | null>(null);

  const [question, setQuestion] = useState<Question | null>(null);

  const start = async (file: File, unit: string | null = null) => {
    setBusy(file.name);
    setRefusal(null);
    setQuestion(null);
    void loadStage();
    try {
      const piece = await started(file, unit);
      client.setQueryData(keys.piece(piece.id), piece);
      void navigate(`/piece/${piece.id}`);
    } catch (error) {
      if (error instanceof Refused && error.sizes) setQuestion({ file, sizes: error.sizes });
      else setRefusal(error instanceof Error ? error.message : String(error));
    } finally {
      setBusy(null);
    }
  };
  const dragging = useDrop((file) => void start(file));

  return (
    <div className="shelf">
      <header className="shelf-head">
        <img src="/mark.svg" alt="" className="shelf-mark" />
        <h1>Shelf</h1>
        <div className="shelf-tools">
          <span className="quiet-label">{busy ? `Reading ${busy} …` : "Drop a picture, drawing or model anywhere, or"}</span>
          <Button variant="outline-secondary" onClick={() => setMotifs(!motifs)}>
            Motifs
          </Button>
          <MotifsPanel show={motifs} onHide={() => setMotifs(false)} piece={null} />
          <Button disabled={busy !== null} onClick={() => picker.current?.click()}>
            <i className="bi bi-image me-2" aria-hidden="true" />
            Choose a file
          </Button>
          <input
            ref={picker}
            type="file"
            hidden
            accept={ACCEPT}
            aria-label="Picture or model file"
            onChange={(event) => {
              const file = event.currentTarget.files?.[0];
              event.currentTarget.value = "";
              if (file) void start(file);
            }}
          />
        </div>
      </header>
      {refusal && (
        <div className="notice-strip" role="alert">
          <i className="bi bi-x-octagon-fill" aria-hidden="true" />
          {refusal}
          <button type="button" className="btn-close" aria-label="Dismiss" onClick={() => setRefusal(null)} />
        </div>
      )}
      {question && (
        <UnitQuestion
          name={question.file.name}
          sizes={question.sizes}
          onChoose={(unit) => void start(question.file, unit)}
          onCancel={() => setQuestion(null)}
        />
      )}
      <RemovedStrip />
      <main>
        {shelf.isPending && <p className="px-4">Fetching the shelf …</p>}
        {shelf.error && (
          <p className="px-4 text-danger" role="alert">
            {shelf.error.message}
          </p>
        )}
        {shelf.data?.length === 0 && <EmptyShelf />}
        <div className="shelf-grid">
          {shelf.data?.map((piece) => (
            <PieceTile key={piece.id} piece={piece} onRefusal={setRefusal} />
          ))}
        </div>
      </main>
      <footer className="shelf-foot quiet-label">
        <a href="/notices.txt">Parts by others, and their licences</a>
      </footer>
      {dragging && <DropVeil />}
    </div>
  );
}

function started(file: File, unit: string | null): Promise<PieceView> {
  const name = file.name.toLowerCase();
  if (MODELS.some((ending) => name.endsWith(ending))) return startModel(file, unit);
  return DRAWINGS.some((ending) => name.endsWith(ending)) ? startDrawing(file, unit) : startPiece(file);
}

function EmptyShelf() {
  return (
    <div className="shelf-empty">
      <svg viewBox="0 0 84 50" aria-hidden="true">
        <path d="M4 40 C18 40 18 14 30 14 S44 30 52 30 S64 6 80 6 V46 H4 Z" fill="#d9ccb2" />
        <path d="M4 46 H80" stroke="#2c6f62" strokeWidth={3} />
      </svg>
      <h2 className="fs-5">The shelf is empty</h2>
      <p className="mb-0">
        Drop a grayscale picture here: a height map, a drawing, a photo with real blacks and whites. It becomes a relief
        panel, or outlines for a cutter or a stamp. An SVG or DXF drawing starts from its curves. A model from another program
        is welcome too: it can be mended, made light and proved.
      </p>
    </div>
  );
}
