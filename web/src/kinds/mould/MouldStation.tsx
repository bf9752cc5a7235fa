import Dropdown from "react-bootstrap/Dropdown";
import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import type { MouldDocument } from "../../api/client";
import { useAddPart, useShelf } from "../../api/pieces";
import type { Editing } from "../../state/useEditing";
import { FloatingMenu } from "../../ui/FloatingMenu";
import { WorkCard } from "../../ui/WorkCard";
import { ChoiceHint } from "../common/fields/PartCard";
import { PartField } from "../common/fields/PartField";

interface Props {
  pieceId: string;
  revision: number;
  document: MouldDocument;
  editing: Editing;
}

/** What is cast, how it is parted, and what the block around it is like. */
export function MouldStation({ pieceId, revision, document, editing }: Props) {
  const work = { document, editing };
  const field = (name: string) => <PartField key={name} {...work} at={`mould.${name}`} />;
  return (
    <>
      <CastCard pieceId={pieceId} revision={revision} document={document} editing={editing} />
      <WorkCard title="Mould">
        {field("kind")}
        <ChoiceHint document={document} at="mould.kind" />
        {["pull", "shrink", "draft_deg"].map(field)}
      </WorkCard>
      <WorkCard title="Parting">
        {["plane", "plane_mm"].map(field)}
        <ChoiceHint document={document} at="mould.plane" />
        {["keys", "key_mm", "gap_mm", "spout", "spout_mm"].map(field)}
      </WorkCard>
      <WorkCard title="Block">{["rim_mm", "floor_mm", "sample_mm", "tolerance_mm"].map(field)}</WorkCard>
    </>
  );
}

/** The piece that is cast: followed or not, and another one in its place. */
function CastCard({ pieceId, revision, document, editing }: Props) {
  const { source } = document.mould;
  const shelf = useShelf();
  const take = useAddPart(pieceId);
  const title = String((source.document as { title?: string }).title ?? "Nothing yet");
  return (
    <WorkCard title="What is cast">
      <div className="d-flex align-items-center gap-2">
        <strong className="flex-grow-1 text-truncate">{title}</strong>
        {source.piece_id && (
          <Link to={`/piece/${source.piece_id}`} className="quiet-label">
            Open it
          </Link>
        )}
      </div>
      <Form.Check
        type="switch"
        id="follow-cast"
        label="Follows its piece"
        checked={source.follow}
        onChange={(event) => editing.keep(event.currentTarget.checked ? "Follows its piece" : "A copy of its piece", { mould: { source: { follow: event.currentTarget.checked } } })}
      />
      {take.error && (
        <p className="measure-refusal" role="alert">
          {take.error.message}
        </p>
      )}
      <Dropdown>
        <Dropdown.Toggle variant="outline-secondary" size="sm" className="w-100" disabled={take.isPending}>
          Cast another piece
        </Dropdown.Toggle>
        <FloatingMenu className="piece-menu">
          {shelf.data
            ?.filter(({ id }) => id !== pieceId && id !== source.piece_id)
            .map((piece) => (
              <Dropdown.Item key={piece.id} as="button" type="button" onClick={() => take.mutate({ base: revision, piece_id: piece.id })}>
                {piece.title} <span className="quiet-label">{piece.body}</span>
              </Dropdown.Item>
            ))}
        </FloatingMenu>
      </Dropdown>
    </WorkCard>
  );
}
