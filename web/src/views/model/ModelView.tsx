import { lazy, Suspense, useDeferredValue, useMemo, useState } from "react";
import type { Printing } from "../../api/client";
import { useBenchStore } from "../../state/benchStore";
import type { ShadedSolid } from "../../api/preview";
import { draws3d } from "./draws3d";
import { FlatModel } from "./FlatModel";
import { loadStage } from "./loadStage";
import type { StageLayer } from "./stageLayer";
import { LightDial } from "./LightDial";
import { MapLegend } from "./MapLegend";
import { StageTools } from "./StageTools";
import { useAfterPaint } from "./useAfterPaint";
import { useBeside, type LeftOut } from "./useBeside";
import { useCarvedStock } from "./useCarvedStock";
import { useLayerCut } from "./useLayerCut";
import { useSurfaceMap } from "./useSurfaceMap";
import { useLook, useModel, usePlanSide } from "../../state/previews";

const ModelStage = lazy(loadStage);

interface Props {
  pieceId: string;
  revision: number;
  /** The final solid of this very revision, once it is built. */
  built: ShadedSolid | null;
  /** What a kind of piece draws on it, inside the stage. */
  layer?: StageLayer;
  /** How it is printed; null where it is not. */
  printing: Printing | null;
  /** Of the piece; a picture of the stage is named after it. */
  title: string;
  /** What was done to it that can be left out, to see it beside. */
  steps?: readonly LeftOut[];
}

const NO_STEPS: readonly LeftOut[] = [];

/** The solid on a dim stage under one lamp. */
export function ModelView({ pieceId, revision, built, layer, printing, title, steps = NO_STEPS }: Props) {
  const model = useAfterPaint(useModel());
  const draft = useBenchStore((state) => state.draft);
  const showsBuilt = built !== null && draft === null;
  const carved = useCarvedStock(pieceId, revision);
  const measured = useSurfaceMap(pieceId, revision, showsBuilt);
  const map = carved?.map ?? measured;
  const beside = useBeside(pieceId, revision, steps);
  // The layer itself is drawn first; the model follows.
  const cutAbove = useDeferredValue(useLayerCut(pieceId, revision));
  const look = useMemo(() => ({ printing, cutAbove }), [printing, cutAbove]);
  const { transmission } = useLook();
  const { refusal } = usePlanSide();
  const lampOn = useBenchStore((state) => state.lampOn);
  const dark = transmission && lampOn && !map ? Math.sqrt(transmission.ambient) : null;
  const solid = carved?.solid ?? map?.solid ?? (showsBuilt ? built : model);
  const [drawn, setDrawn] = useState<ShadedSolid | null>(null);
  const [flat] = useState(() => !draws3d());
  return (
    <div
      className="pane pane-model"
      role="group"
      aria-label="Model"
      aria-busy={!flat && solid !== drawn}
      style={dark === null ? undefined : { background: `rgb(${18 + 150 * dark} ${20 + 150 * dark} ${22 + 148 * dark})` }}
    >
      <span className="pane-name">Model</span>
      {!flat && <StageTools lamp={Boolean(transmission)} steps={steps} />}
      {!solid && (
        <div className="pane-message" role="status">
          {refusal ? "There is no solid to show." : "Making the solid …"}
        </div>
      )}
      {solid && (
        <>
          {flat ? (
            <FlatModel pieceId={pieceId} revision={revision} />
          ) : (
            <Suspense fallback={<div className="pane-message">Setting up the stage …</div>}>
              <div className={beside ? "stages is-double" : "stages"}>
                {beside && (
                  <div className="stage">
                    <ModelStage solid={beside.solid} map={null} view="beside" />
                    <span className="stage-name">{beside.name}</span>
                  </div>
                )}
                <div className="stage">
                  <ModelStage solid={solid} map={map} view="today" layer={layer} look={look} pictured={title} onDrawn={setDrawn} />
                  {beside && <span className="stage-name">Today</span>}
                </div>
              </div>
            </Suspense>
          )}
          {map && <MapLegend head={map.head} />}
          {!flat && <LightDial />}
          <span className="pane-note" data-testid="model-note">
            {carved ? "Simulated stock" : showsBuilt ? "Built" : "Preview"} · {(solid.faces.length / 3).toLocaleString("en")} triangles
          </span>
        </>
      )}
    </div>
  );
}
