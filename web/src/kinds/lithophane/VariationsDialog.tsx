import { useEffect, useRef } from "react";
import Modal from "react-bootstrap/Modal";
import { useVariations } from "../../api/lithophanes";
import type { Variation } from "../../api/preview";
import { transmissionLookOf, paintLit } from "../../views/transmission";
import type { LithophaneStationProps } from "../common/stationProps";

interface Props extends LithophaneStationProps {
  show: boolean;
  onHide: () => void;
}

/** A contact sheet: three ranges of thickness by three strengths of the light rule, all lit; one can be taken. */
export function VariationsDialog({ pieceId, revision, document, editing, show, onHide }: Props) {
  const { data: cells, error } = useVariations(pieceId, revision, show);
  const take = ({ thickest_mm, strength }: Variation) => {
    editing.keep(`Variation: up to ${thickest_mm} mm, ${told(strength)}`, { glow: { thickest_mm, strength, rule: "light" } });
    onHide();
  };
  return (
    <Modal show={show} onHide={onHide} size="xl" centered>
      <Modal.Header closeButton>
        <Modal.Title as="h2" className="fs-5">
          Nine variations, lit
        </Modal.Title>
      </Modal.Header>
      <Modal.Body className="variations">
        {error && <p role="alert">{error.message}</p>}
        {!cells && !error && <p className="quiet-label">Lighting them …</p>}
        {cells?.map((cell, at) => {
          const now = document.glow.rule === "light" && cell.thickest_mm === document.glow.thickest_mm && cell.strength === document.glow.strength;
          return (
            <button key={at} type="button" className="variation" aria-pressed={now} onClick={() => take(cell)}>
              <LitCanvas cell={cell} document={document} />
              <span>
                {cell.thinnest_mm} to {cell.thickest_mm} mm, <b>{told(cell.strength)}</b>
              </span>
              <span className="quiet-label">contrast 1 : {Math.round(cell.contrast)}</span>
            </button>
          );
        })}
      </Modal.Body>
    </Modal>
  );
}

function told(strength: number): string {
  if (strength === 0) return "straight";
  return strength === 1 ? "true to light" : `${Math.round(strength * 100)} % of the light rule`;
}

function LitCanvas({ cell, document }: { cell: Variation; document: LithophaneStationProps["document"] }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { rows, columns } = cell.through;
  useEffect(() => {
    const look = { ...transmissionLookOf(document), thinnest: cell.thinnest_mm, thickest: cell.thickest_mm };
    canvas.current?.getContext("2d")?.putImageData(new ImageData(paintLit(cell.through, look), columns, rows), 0, 0);
  }, [cell, document, columns, rows]);
  return <canvas ref={canvas} width={columns} height={rows} />;
}
