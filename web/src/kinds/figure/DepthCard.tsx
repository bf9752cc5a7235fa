import { useState } from "react";
import Form from "react-bootstrap/Form";
import { useUnsure } from "../../api/depthSources";
import type { Editing } from "../../state/useEditing";
import { useFigureStore } from "../../state/figureStore";
import { Button } from "../../ui/Button";
import { FilePick } from "../../ui/FilePick";
import { WorkCard } from "../../ui/WorkCard";
import { ChoiceHint } from "../common/fields/PartCard";
import { PartField } from "../common/fields/PartField";
import { valueAt } from "../common/fields/valueAt";
import type { FigureStationProps } from "../common/stationProps";
import { NetworkPicker } from "./NetworkPicker";
import { ServiceAsk } from "./ServiceAsk";

type FromFile = "picture" | "own" | "service";

const FROM_FILE: readonly string[] = ["picture", "own", "service"];

const AT = "figure.depth";

/** Where depth comes from, and how thick the figure is. */
export function DepthCard({ pieceId, revision, document, editing }: FigureStationProps) {
  const kept = document.figure.depth;
  // What needs a file is not kept before there is one.
  const [choosing, setChoosing] = useState<FromFile | null>(null);
  const depth = choosing ? { ...kept, kind: choosing, blob: null, name: "" } : kept;
  const work = { document: { ...document, figure: { ...document.figure, depth } }, editing };
  const chooseKind: Editing = {
    ...editing,
    keep: (words, change) => {
      const kind = valueAt(change, `${AT}.kind`);
      const needsFile = isFromFile(kind) && kind !== kept.kind;
      setChoosing(needsFile ? kind : null);
      if (!needsFile && kind !== kept.kind) editing.keep(words, change);
    },
  };
  const keepFile = (kind: FromFile, file: object, name: string) => {
    setChoosing(null);
    editing.keep(`Depth by ${name}`, { figure: { depth: { kind, ...file } } });
  };
  return (
    <WorkCard title="Depth">
      <PartField {...work} editing={chooseKind} at={`${AT}.kind`} />
      <ChoiceHint document={work.document} at={`${AT}.kind`} />
      {depth.kind === "learned" && <Unsure pieceId={pieceId} revision={revision} />}
      {depth.kind === "own" && <NetworkPicker depth={depth} onTake={(file) => keepFile("own", file, file.name)} />}
      {depth.kind === "own" && depth.blob && ["side", "gives", "scale"].map((name) => <PartField key={name} {...work} at={`${AT}.card.${name}`} />)}
      {depth.kind === "service" && <ServiceAsk pieceId={pieceId} depth={depth} onTake={(file) => keepFile("service", file, file.name)} />}
      {depth.kind === "picture" && (
        <FilePick
          label="A picture of depths for the front, as large as this one"
          name={depth.blob ? depth.name : undefined}
          onKept={({ blob, name }) => keepFile("picture", { blob, name }, name)}
        />
      )}
      {depth.kind === "picture" && depth.blob && (
        <FilePick
          label="A picture of depths for the back, as one sees it from there"
          name={depth.behind_blob ? depth.behind_name : undefined}
          onKept={({ blob, name }) => editing.keep(`Depth behind by ${name}`, { figure: { depth: { behind_blob: blob, behind_name: name } } })}
        />
      )}
      {["near", "span_mm", "shading"].map((name) => (
        <PartField key={name} {...work} at={`${AT}.${name}`} />
      ))}
      {depth.blob && isFromFile(depth.kind) && (
        <Button size="sm" variant="outline-secondary" onClick={() => editing.keep("Depth from the outline", { figure: { depth: { kind: "swell", blob: null, name: null, behind_blob: null, behind_name: null } } })}>
          Take away
        </Button>
      )}
      <PartField {...work} at={`${AT}.profile`} />
      <ChoiceHint document={document} at={`${AT}.profile`} />
      {["rim_mm", "by", "roundness", "thickness_mm"].map((name) => (
        <PartField key={name} {...work} at={`${AT}.${name}`} />
      ))}
    </WorkCard>
  );
}

function isFromFile(kind: unknown): kind is FromFile {
  return FROM_FILE.includes(kind as string);
}

function Unsure({ pieceId, revision }: Pick<FigureStationProps, "pieceId" | "revision">) {
  const { showUnsure, set } = useFigureStore();
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
