import { useState } from "react";
import Form from "react-bootstrap/Form";
import Modal from "react-bootstrap/Modal";
import type { NewSheet } from "../api/client";
import { useBenchStore } from "../state/benchStore";
import { formatLength, parseLength } from "../state/units";
import { Choice } from "../ui/Choice";

const GROUNDS = [
  { value: "0", label: "Black" },
  { value: "0.5", label: "Gray" },
  { value: "1", label: "White" },
  { value: "blank", label: "Blank" },
] as const;
const FONTS = [
  { value: "bold", label: "Bold" },
  { value: "round", label: "Round" },
  { value: "black", label: "Heavy" },
  { value: "plain", label: "Plain" },
] as const;

interface Props {
  busy: boolean;
  refusal: string | null;
  onBegin: (sheet: NewSheet) => void;
  onHide: () => void;
}

/** Asks how large a new sheet is, what its ground is, and what is written on it. */
export function NewSheetDialog({ busy, refusal, onBegin, onHide }: Props) {
  const unit = useBenchStore((state) => state.unit);
  const [wide, setWide] = useState(formatLength(100, unit));
  const [tall, setTall] = useState(formatLength(60, unit));
  const [ground, setGround] = useState<(typeof GROUNDS)[number]["value"]>("0");
  const [text, setText] = useState("");
  const [font, setFont] = useState<(typeof FONTS)[number]["value"]>("bold");
  const [said, setSaid] = useState<string | null>(null);
  const begin = () => {
    const sides = [parseLength(wide, unit), parseLength(tall, unit)];
    const [width_mm, height_mm] = sides;
    if (!width_mm || !height_mm || width_mm < 0 || height_mm < 0) {
      setSaid("Width and height are lengths like 180 or 50 mm.");
      return;
    }
    setSaid(null);
    const words = text.trim();
    onBegin({
      width_mm,
      height_mm,
      ground: ground === "blank" ? null : Number(ground),
      title: words.split("\n")[0]?.slice(0, 120) || "New sheet",
      text: words,
      font,
      text_height_mm: null,
      text_tone: ground === "1" ? 0 : 1,
    });
  };
  const told = said ?? refusal;
  return (
    <Modal show centered onHide={onHide} aria-labelledby="new-sheet">
      <Modal.Header closeButton>
        <Modal.Title as="h2" id="new-sheet" className="fs-5">
          New sheet
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <Form
          onSubmit={(event) => {
            event.preventDefault();
            begin();
          }}
        >
          <div className="d-flex gap-3 mb-3">
            <Form.Group controlId="sheet-wide" className="flex-grow-1">
              <Form.Label className="mb-1">Width, {unit}</Form.Label>
              <Form.Control autoFocus type="text" inputMode="decimal" value={wide} onChange={(event) => setWide(event.currentTarget.value)} />
            </Form.Group>
            <Form.Group controlId="sheet-tall" className="flex-grow-1">
              <Form.Label className="mb-1">Height, {unit}</Form.Label>
              <Form.Control type="text" inputMode="decimal" value={tall} onChange={(event) => setTall(event.currentTarget.value)} />
            </Form.Group>
          </div>
          <div className="mb-3">
            <div className="mb-1">Ground</div>
            <Choice label="Ground" value={ground} options={GROUNDS} onChange={setGround} />
            <p className="quiet-label mt-1 mb-0">
              {ground === "blank" ? "Nothing is made where nothing is drawn; type some lettering to begin with." : "Brighter tones stand taller. What is drawn on a gray ground can rise or sink."}
            </p>
          </div>
          <Form.Group controlId="sheet-text" className="mb-2">
            <Form.Label className="mb-1">Lettering, if any</Form.Label>
            <Form.Control as="textarea" rows={2} maxLength={400} value={text} onChange={(event) => setText(event.currentTarget.value)} />
          </Form.Group>
          <Choice label="Letters" value={font} options={FONTS} onChange={setFont} />
          {told && (
            <p className="measure-refusal mt-2 mb-0" role="alert">
              {told}
            </p>
          )}
          <div className="d-flex justify-content-end mt-3">
            <button type="submit" className="btn btn-primary" disabled={busy}>
              Begin
            </button>
          </div>
        </Form>
      </Modal.Body>
    </Modal>
  );
}
