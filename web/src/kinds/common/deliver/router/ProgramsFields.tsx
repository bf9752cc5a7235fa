import { useState } from "react";
import Form from "react-bootstrap/Form";
import { usePosts } from "../../../../api/carving";
import type { RouterPost } from "../../../../api/client";
import { Button } from "../../../../ui/Button";
import { PartFields } from "../../fields/PartField";
import type { AnyStationProps } from "../../stationProps";
import { KeptRows } from "./KeptRows";

/** How the machine wants its programs, and the table of ways that a person keeps. */
export function ProgramsFields({ document, editing }: Pick<AnyStationProps, "document" | "editing">) {
  const { posts, add, change, drop } = usePosts();
  const post: RouterPost = document.carving.post;
  const [name, setName] = useState(post.name);
  const named = { ...post, name: name.trim() };
  const known = posts.some((each) => JSON.stringify(each.post) === JSON.stringify(named));
  const keep = () => {
    const same = posts.find((each) => each.post.name.toLowerCase() === named.name.toLowerCase());
    if (same) change.mutate({ ...same, post: named });
    else add.mutate(named);
    if (named.name !== post.name) editing.keep(`Programs as ${named.name}`, { carving: { post: { name: named.name } } });
  };
  const refusal = add.error ?? change.error;
  return (
    <>
      <div className="field-pairs">
        <PartFields document={document} editing={editing} at="carving.post" />
      </div>
      {!known && (
        <div className="d-flex align-items-center gap-1">
          <Form.Control size="sm" aria-label="Name of this way" value={name} maxLength={80} onChange={({ currentTarget }) => setName(currentTarget.value)} />
          <Button size="sm" variant="outline-secondary" className="text-nowrap" disabled={named.name === ""} onClick={keep}>
            Keep it
          </Button>
        </div>
      )}
      {refusal && (
        <p className="measure-refusal" role="alert">
          {refusal.message}
        </p>
      )}
      <KeptRows
        title="Kept ways"
        place="the table"
        rows={posts.map((each) => ({ id: each.id, name: each.post.name, taken: JSON.stringify(each.post) === JSON.stringify(post) }))}
        onTake={(at) => {
          const taken = posts[at]?.post;
          if (!taken) return;
          setName(taken.name);
          editing.keep(`Programs as ${taken.name}`, { carving: { post: taken } });
        }}
        onDrop={(id) => drop.mutate(id)}
      />
    </>
  );
}
