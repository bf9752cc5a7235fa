import { useState } from "react";

interface Props {
  pieceId: string;
  revision: number;
}

/** In place of the stage where the browser draws nothing in 3D: what that means, and a picture of the piece if wanted. */
export function FlatModel({ pieceId, revision }: Props) {
  const [pictured, setPictured] = useState(false);
  return (
    <div className="pane-message" role="status">
      <p>
        This browser draws nothing in 3D, so the model cannot be turned here. Plan, Section, findings and files are the
        same as ever.
      </p>
      {pictured ? (
        <img className="flat-model" src={`/api/pieces/${pieceId}/thumbnail.png?revision=${revision}`} alt="The piece as it was last kept" />
      ) : (
        <button type="button" className="stage-button" onClick={() => setPictured(true)}>
          Show a picture of it
        </button>
      )}
    </div>
  );
}
