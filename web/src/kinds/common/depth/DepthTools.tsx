import { useState } from "react";
import type { FigureStroke } from "../../../api/client";
import { useUnsure } from "../../../api/depthSources";
import { useBenchStore } from "../../../state/benchStore";
import { useDepthStore } from "../../../state/depthStore";
import type { Editing } from "../../../state/useEditing";
import type { PlanGeometry } from "../../../views/plan/geometry";
import { useNewRow } from "../fields/newRow";
import { usePartSchemas } from "../../../state/partSchemas";
import { StrokeSurface } from "../picture/tools/StrokeSurface";
import { usePlaces } from "../picture/tools/usePlaces";
import { patchAt } from "../fields/patchAt";
import { depthIn, type DepthWork } from "./depthHome";
import { MARK_COLOUR, STROKE_COLOURS } from "./strokeColours";

type Places = readonly (readonly [number, number, number])[];

interface Props extends Pick<DepthWork, "document" | "at"> {
  geometry: PlanGeometry;
}

/** The strokes that count, over the Plan. */
export function StrokeMarks({ document, geometry, at }: Props) {
  return (
    <g data-testid="depth-strokes" pointerEvents="none">
      {depthIn(document, at).strokes.map(
        (stroke) => stroke.on && <Drawn key={stroke.id} kind={stroke.kind} places={stroke.places} sizeMm={stroke.size_mm} geometry={geometry} />,
      )}
    </g>
  );
}

/** The parts of the list over the Plan, the nearest with the lowest number. */
export function OrderMarks({ document, geometry, at: place }: Props) {
  const { toPlan } = usePlaces(geometry);
  return (
    <g data-testid="depth-order" pointerEvents="none" className="order-marks">
      {depthIn(document, place).order.map((part, at) => {
        const { x, y } = geometry.toPx(toPlan({ x: part.at[0], y: part.at[1] }));
        return (
          part.on && (
            <g key={part.id} transform={`translate(${x} ${y})`}>
              <circle r="9" />
              <text textAnchor="middle" dominantBaseline="central">
                {at + 1}
              </text>
            </g>
          )
        );
      })}
    </g>
  );
}

/** Where depth is unsure, over the Plan: the redder, the less sure. */
export function UnsureOverPlan({ pieceId, revision, document, geometry, at }: Props & { pieceId: string; revision: number }) {
  const shown = useDepthStore((state) => state.showUnsure) && depthIn(document, at).depth.kind === "learned";
  const { data: facts } = useUnsure(pieceId, revision, shown);
  if (!shown || !facts) return null;
  const [width, depth] = geometry.size;
  const corner = geometry.toPx({ x: 0, y: depth });
  return (
    <image
      data-testid="unsure-on-plan"
      href={facts.picture}
      x={corner.x}
      y={corner.y}
      width={width * geometry.scale}
      height={depth * geometry.scale}
      preserveAspectRatio="none"
      pointerEvents="none"
    />
  );
}

/** Draws the next stroke. */
export function DepthTool({ document, geometry, editing, at }: Props & { editing: Editing }) {
  const { kind, amountMm, marking } = useDepthStore();
  const sizeMm = useBenchStore((state) => state.brush.sizeMm);
  const [drawn, setDrawn] = useState<Places | null>(null);
  const newStroke = useNewRow(document, `${at}.strokes`);
  const newPart = useNewRow(document, `${at}.order`);
  const words = usePartSchemas().kinds(document, `${at}.strokes`)[""]?.fields.find((field) => field.name === "kind")?.choices ?? {};
  if (marking) {
    const mark = ([[x, y] = [0, 0, 0]]: Places) => editing.keep("Part marked", patchAt(`${at}.order`, [...depthIn(document, at).order, newPart("", { at: [x, y] })]));
    return <StrokeSurface label="Mark a part" geometry={geometry} colour={MARK_COLOUR} onStroke={({ places }, done) => done && mark(places)} />;
  }
  if (!kind) return null;
  const keep = (places: Places) => {
    const stroke = newStroke("", { kind, places, size_mm: sizeMm, amount_mm: amountMm });
    editing.keep(words[kind] ?? kind, patchAt(`${at}.strokes`, [...depthIn(document, at).strokes, stroke]));
  };
  return (
    <g>
      {drawn && <Drawn kind={kind} places={drawn} sizeMm={sizeMm} geometry={geometry} />}
      <StrokeSurface
        label={words[kind] ?? kind}
        geometry={geometry}
        colour={STROKE_COLOURS[kind]}
        onStroke={({ places }, done) => {
          setDrawn(done ? null : places);
          if (done) keep(places);
        }}
      />
    </g>
  );
}

function Drawn({ kind, places, sizeMm, geometry }: { kind: FigureStroke["kind"]; places: Places; sizeMm: number; geometry: PlanGeometry }) {
  const { toPlan } = usePlaces(geometry);
  const path = places
    .map(([x, y], at) => {
      const px = geometry.toPx(toPlan({ x, y }));
      return `${at ? "L" : "M"}${px.x} ${px.y}`;
    })
    .join("");
  return (
    <path
      d={places.length === 1 ? `${path}h0.1` : path}
      fill="none"
      stroke={STROKE_COLOURS[kind]}
      strokeWidth={Math.max(2, sizeMm * geometry.scale)}
      strokeLinecap="round"
      strokeLinejoin="round"
      opacity={0.5}
      pointerEvents="none"
    />
  );
}
