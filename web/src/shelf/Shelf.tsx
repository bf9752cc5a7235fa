import { useQueryClient } from "@tanstack/react-query";
import { useMemo, useRef, useState } from "react";
import { HelpLink } from "../ui/HelpLink";
import { Button } from "../ui/Button";
import { draws3d } from "../views/model/draws3d";
import { loadStage } from "../views/model/loadStage";
import { Link, useNavigate } from "react-router";
import { Refused, type NewSheet, type PieceCard, type PieceView } from "../api/client";
import { keys, openPieceFile, startDrawing, startModel, startMould, startPiece, startSheet, startTogether, useShelf } from "../api/pieces";
import { useBenchStore } from "../state/benchStore";
import { useShelfStore } from "../state/shelfStore";
import { MotifsPanel } from "../views/motifs/MotifsPanel";
import { arranged } from "./arranged";
import { ChosenBar } from "./ChosenBar";
import { DropVeil } from "./DropVeil";
import { Greeting } from "./Greeting";
import { NewSheetDialog } from "./NewSheetDialog";
import { PieceTile } from "./PieceTile";
import { RemovedStrip } from "./RemovedStrip";
import { ShelfTools } from "./ShelfTools";
import { UnitQuestion } from "./UnitQuestion";
import { useDrop } from "./useDrop";

const MODELS = [".stl", ".obj", ".ply", ".off", ".3mf", ".glb"];
const DRAWINGS = [".svg", ".dxf"];
const PIECES = [".zip"];
const OTHERS = [...MODELS, ...DRAWINGS, ...PIECES];
const ACCEPT = [".png,.jpg,.jpeg,.tif,.tiff,.webp,.bmp,.gif,.avif,.heic,.heif,.jxl,.exr", ...OTHERS].join(",");

interface Question {
  file: File;
  sizes: Record<string, [number, number, number]>;
}

/** All pieces; drop pictures, drawings and models anywhere to start some, or begin on a new sheet. */
export function Shelf() {
  const shelf = useShelf();
  const client = useQueryClient();
  const navigate = useNavigate();
  const picker = useRef<HTMLInputElement>(null);
  const camera = useRef<HTMLInputElement>(null);
  const [motifs, setMotifs] = useState(false);
  const [sheet, setSheet] = useState(false);
  const [busy, setBusy] = useState<string | null>(null);
  const [refusal, setRefusal] = useState<string | null>(null);
  const [question, setQuestion] = useState<Question | null>(null);
  const { words, tag, order, chosen } = useShelfStore();
  const pieces = useMemo(() => shelf.data ?? [], [shelf.data]);
  const shown = useMemo(() => arranged(pieces, words, tag, order), [pieces, words, tag, order]);

  const open = (piece: PieceView, address = `/piece/${piece.id}`) => {
    client.setQueryData(keys.piece(piece.id), piece);
    void client.invalidateQueries({ queryKey: keys.shelf });
    void navigate(address);
  };
  const begin = async (doing: string, start: () => Promise<PieceView>, address?: (piece: PieceView) => string) => {
    setBusy(doing);
    setRefusal(null);
    if (draws3d()) void loadStage();
    try {
      const piece = await start();
      open(piece, address?.(piece));
    } catch (error) {
      setRefusal(error instanceof Error ? error.message : String(error));
    } finally {
      setBusy(null);
    }
  };
  const start = async (file: File, unit: string | null = null) => {
    setQuestion(null);
    await begin(
      `Reading ${file.name} …`,
      async () => {
        try {
          return await started(file, unit);
        } catch (error) {
          if (error instanceof Refused && error.sizes) setQuestion({ file, sizes: error.sizes });
          throw error;
        }
      },
      (piece) => (isPicture(file) ? `/piece/${piece.id}/choose` : `/piece/${piece.id}`),
    );
  };
  /** Several files become pieces one after the other, and the shelf stays. */
  const startAll = async (files: readonly File[]) => {
    const [only] = files;
    if (only && files.length === 1) return start(only);
    const refused: string[] = [];
    const begun: string[] = [];
    setRefusal(null);
    for (const [at, file] of files.entries()) {
      setBusy(`Reading ${file.name}, ${at + 1} of ${files.length} …`);
      await started(file, null).then(
        ({ id }) => begun.push(id),
        (error: Error) => refused.push(error.message),
      );
    }
    // What comes together mostly goes on together: by one recipe, into one file.
    useShelfStore.getState().set({ chosen: new Set(begun), tag: null, words: "" });
    setBusy(null);
    if (refused.length) setRefusal(refused.join(" "));
    await client.invalidateQueries({ queryKey: keys.shelf });
  };
  const together = (several: readonly PieceCard[]) =>
    void begin("Putting them together …", async () => {
      const piece = await startTogether(several.map(({ id }) => id));
      useBenchStore.getState().set({ station: "parts" });
      useShelfStore.getState().set({ chosen: null });
      return piece;
    });
  const mould = ({ id, title }: PieceCard) =>
    void begin(`Sinking ${title} into a mould …`, async () => {
      const piece = await startMould(id);
      useBenchStore.getState().set({ station: "mould" });
      return piece;
    });
  const beginSheet = (asked: NewSheet) =>
    void begin("Making the sheet …", async () => {
      const piece = await startSheet(asked);
      const [lettering] = "ops" in piece.document ? piece.document.ops : [];
      useBenchStore.getState().set({ station: "picture", opId: lettering?.id ?? null });
      return piece;
    });
  const dragging = useDrop((files) => void startAll(files));
  const take = (input: HTMLInputElement) => {
    const files = [...(input.files ?? [])];
    input.value = "";
    if (files.length) void startAll(files);
  };

  return (
    <div className="shelf">
      <header className="shelf-head">
        <img src="/mark.svg" alt="" className="shelf-mark" />
        <h1>Shelf</h1>
        {pieces.length > 0 && <ShelfTools pieces={pieces} />}
        <div className="shelf-tools">
          {busy && (
            <span className="quiet-label" role="status">
              {busy}
            </span>
          )}
          <Button variant="outline-secondary" onClick={() => setMotifs(!motifs)}>
            Motifs
          </Button>
          <MotifsPanel show={motifs} onHide={() => setMotifs(false)} piece={null} />
          <Link className="icon-button" to="/keeping" aria-label="Storage and problems" title="Storage and problems">
            <i className="bi bi-hdd" aria-hidden="true" />
          </Link>
          <HelpLink />
          <button type="button" className="icon-button" aria-label="Take a photograph" title="Take a photograph" disabled={busy !== null} onClick={() => camera.current?.click()}>
            <i className="bi bi-camera" aria-hidden="true" />
          </button>
          <Button variant="outline-secondary" disabled={busy !== null} onClick={() => setSheet(true)}>
            <i className="bi bi-plus-square me-2" aria-hidden="true" />
            New sheet
          </Button>
          <Button disabled={busy !== null} onClick={() => picker.current?.click()}>
            <i className="bi bi-image me-2" aria-hidden="true" />
            Choose a file
          </Button>
          <input ref={picker} type="file" hidden multiple accept={ACCEPT} aria-label="Picture or model file" onChange={(event) => take(event.currentTarget)} />
          <input ref={camera} type="file" hidden accept="image/*" capture="environment" aria-label="Photograph" onChange={(event) => take(event.currentTarget)} />
        </div>
      </header>
      {refusal && !question && (
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
          onCancel={() => {
            setQuestion(null);
            setRefusal(null);
          }}
        />
      )}
      {sheet && <NewSheetDialog busy={busy !== null} refusal={refusal} onBegin={beginSheet} onHide={() => setSheet(false)} />}
      <RemovedStrip />
      <ChosenBar shown={shown} onRefusal={setRefusal} onTogether={together} />
      <main>
        {shelf.isPending && <p className="px-4">Fetching the shelf …</p>}
        {shelf.error && (
          <p className="px-4 text-danger" role="alert">
            {shelf.error.message}
          </p>
        )}
        {shelf.data?.length === 0 && <Greeting onFile={() => picker.current?.click()} onSheet={() => setSheet(true)} />}
        {pieces.length > 0 && shown.length === 0 && <p className="px-4">No piece has these words or this tag.</p>}
        <div className="shelf-grid">
          {shown.map((piece) => (
            <PieceTile key={piece.id} piece={piece} chosen={chosen ? chosen.has(piece.id) : null} onMould={() => mould(piece)} onRefusal={setRefusal} />
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

function isPicture(file: File): boolean {
  const name = file.name.toLowerCase();
  return !OTHERS.some((ending) => name.endsWith(ending));
}

function started(file: File, unit: string | null): Promise<PieceView> {
  const name = file.name.toLowerCase();
  if (PIECES.some((ending) => name.endsWith(ending))) return openPieceFile(file);
  if (MODELS.some((ending) => name.endsWith(ending))) return startModel(file, unit);
  return DRAWINGS.some((ending) => name.endsWith(ending)) ? startDrawing(file, unit) : startPiece(file);
}
