import { useId, useRef, type MouseEvent } from "react";
import Form from "react-bootstrap/Form";

interface Props {
  pieceId: string;
  label: string;
  value: string;
  onKeep: (colour: string) => void;
}

/** A colour, chosen or taken from the source by a click on it. */
export function ColourField({ pieceId, label, value, onKeep }: Props) {
  const id = useId();
  const source = useRef<HTMLImageElement>(null);
  const pick = (event: MouseEvent) => {
    const image = source.current;
    if (!image?.naturalWidth) return;
    const box = image.getBoundingClientRect();
    const canvas = window.document.createElement("canvas");
    canvas.width = canvas.height = 1;
    const context = canvas.getContext("2d");
    if (!context) return;
    const x = Math.floor(((event.clientX - box.left) / box.width) * image.naturalWidth);
    const y = Math.floor(((event.clientY - box.top) / box.height) * image.naturalHeight);
    context.drawImage(image, x, y, 1, 1, 0, 0, 1, 1);
    const [red = 0, green = 0, blue = 0] = context.getImageData(0, 0, 1, 1).data;
    onKeep(`#${[red, green, blue].map((part) => part.toString(16).padStart(2, "0")).join("")}`);
  };
  return (
    <div className="colour-field">
      <label htmlFor={id}>{label}</label>
      <Form.Control id={id} type="color" size="sm" value={value} onChange={(event) => onKeep(event.currentTarget.value)} />
      <img
        ref={source}
        src={`/api/pieces/${pieceId}/source.png`}
        alt="The source in colour; click a place to take its colour"
        title="Click to take a colour"
        onClick={pick}
      />
    </div>
  );
}
