import { useState, type ReactNode } from "react";
import Form from "react-bootstrap/Form";
import { useUnsure } from "../../../api/depthSources";
import { patched } from "../../../api/mergePatch";
import { useDepthStore } from "../../../state/depthStore";
import type { Editing } from "../../../state/useEditing";
import { Button } from "../../../ui/Button";
import { FilePick } from "../../../ui/FilePick";
import { WorkCard } from "../../../ui/WorkCard";
import { ChoiceHint } from "../fields/PartCard";
import { PartField } from "../fields/PartField";
import { patchAt } from "../fields/patchAt";
import { valueAt } from "../fields/valueAt";
import { depthIn, type DepthWork } from "./depthHome";
import { NetworkPicker } from "./NetworkPicker";
import { ServiceAsk } from "./ServiceAsk";

type FromFile = "picture" | "own" | "service";

const FROM_FILE: readonly string[] = ["picture", "own", "service"];

interface Props extends DepthWork {
  /** What goes with a depth picture. */
  besidePicture?: ReactNode;
  /** What of its depth is taken away with its file. */
  cleared?: object;
  children?: ReactNode;
}

/** Where depth comes from, and how parts swell. */
export function DepthCard({ pieceId, revision, document, editing, at, besidePicture, cleared, children }: Props) {
  const place = `${at}.depth`;
  const kept = depthIn(document, at).depth;
  // What needs a file is not kept before there is one.
  const [choosing, setChoosing] = useState<FromFile | null>(null);
  const depth = choosing ? { ...kept, kind: choosing, blob: null, name: "" } : kept;
  const work = { document: patched(document, patchAt(place, depth)), editing };
  const chooseKind: Editing = {
    ...editing,
    keep: (words, change) => {
      const kind = valueAt(change, `${place}.kind`);
      const needsFile = isFromFile(kind) && kind !== kept.kind;
      setChoosing(needsFile ? kind : null);
      if (!needsFile && kind !== kept.kind) editing.keep(words, change);
    },
  };
  const keepFile = (kind: FromFile, file: object, name: string) => {
    setChoosing(null);
    editing.keep(`Depth by ${name}`, patchAt(place, { kind, ...file }));
  };
  return (
    <WorkCard title="Depth">
      <PartField {...work} editing={chooseKind} at={`${place}.kind`} />
      <ChoiceHint document={work.document} at={`${place}.kind`} />
      {depth.kind === "learned" && <Unsure pieceId={pieceId} revision={revision} />}
      {depth.kind === "own" && <NetworkPicker depth={depth} onTake={(file) => keepFile("own", file, file.name)} />}
      {depth.kind === "own" && depth.blob && ["side", "gives", "scale"].map((name) => <PartField key={name} {...work} at={`${place}.card.${name}`} />)}
      {depth.kind === "service" && <ServiceAsk pieceId={pieceId} depth={depth} onTake={(file) => keepFile("service", file, file.name)} />}
      {depth.kind === "picture" && (
        <FilePick
          label="A picture of depths for the front, as large as this one"
          name={depth.blob ? depth.name : undefined}
          onKept={({ blob, name }) => keepFile("picture", { blob, name }, name)}
        />
      )}
      {depth.kind === "picture" && depth.blob && besidePicture}
      {["near", "span_mm", "shading"].map((name) => (
        <PartField key={name} {...work} at={`${place}.${name}`} />
      ))}
      {depth.blob && isFromFile(depth.kind) && (
        <Button size="sm" variant="outline-secondary" onClick={() => editing.keep("Depth from the outline", patchAt(place, { kind: "swell", blob: null, name: null, ...cleared }))}>
          Take away
        </Button>
      )}
      <PartField {...work} at={`${place}.profile`} />
      <ChoiceHint document={document} at={`${place}.profile`} />
      <PartField {...work} at={`${place}.rim_mm`} />
      {children}
    </WorkCard>
  );
}

function isFromFile(kind: unknown): kind is FromFile {
  return FROM_FILE.includes(kind as string);
}

function Unsure({ pieceId, revision }: Pick<DepthWork, "pieceId" | "revision">) {
  const { showUnsure, set } = useDepthStore();
  const { data: facts } = useUnsure(pieceId, revision, showUnsure);
  return (
    <>
      <Form.Check
        type="switch"
        id="show-unsure"
        label="Show on the Plan where it is unsure"
        checked={showUnsure}
        onChange={({ currentTarget }) => set({ showUnsure: currentTarget.checked })}
      />
      {showUnsure && facts && (
        <p className="quiet-label" data-testid="unsure">
          {`It may be off by ${facts.mean_mm.toFixed(1)} mm, by ${facts.most_mm.toFixed(1)} mm where it is reddest: a stroke there helps most.`}
        </p>
      )}
    </>
  );
}
