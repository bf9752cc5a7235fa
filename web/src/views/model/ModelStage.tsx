import { Canvas, useFrame, useThree, type ThreeEvent } from "@react-three/fiber";
import { memo, Suspense, useEffect, useMemo, useRef, type Ref, type RefObject } from "react";
import { BufferAttribute, BufferGeometry, Color, type DirectionalLight, DoubleSide, FrontSide, type HemisphereLight, Mesh, Plane, Sphere, SRGBColorSpace, Vector3, type Intersection, type Raycaster } from "three";
import type { ShadedSolid, SheetOnSolid, SurfaceMap } from "../../api/preview";
import { useBenchStore, type Place } from "../../state/benchStore";
import { useDecorStore } from "../../state/decorStore";
import { useHandStore } from "../../state/handStore";
import { useJudgingStore } from "../../state/judgingStore";
import { usePoseStore } from "../../state/poseStore";
import { BandedMaterial } from "./BandedMaterial";
import { TransmissionMaterial } from "./TransmissionMaterial";
import { useCursorOnModel, useLook, useSameAsModel } from "../../state/previews";
import type { StageLayer } from "./stageLayer";
import { FittedShadows } from "./FittedShadows";
import { FrameTimer } from "./FrameTimer";
import { LayerCap } from "./LayerCap";
import { mapColours } from "./mapColours";
import { lowestAlong, upOf, type PrintLook } from "./printLook";
import { PickedPlaces } from "./PickedPlaces";
import { PictureTaker } from "./PictureTaker";
import { PoseRings } from "./PoseRings";
import { RestingLight } from "./RestingLight";
import { SharedEye } from "./SharedEye";
import { SurfaceMaterial } from "./SurfaceMaterial";
import { turnDown } from "./turns";

type Size = readonly [number, number, number];

const UNIT = new Vector3(1, 1, 1);
const FOV_DEG = 28;
const TURN_SECONDS = 10;
/** Where it is cut between layers. */
const CAP = "#d8bd8c";
/** Where the eye first is: a little from below, so that thickness shows. */
const FIRST_LOOK = new Vector3(-0.13, -0.42, 1).normalize();
/** On what stands: from in front and a little from above. */
const FIRST_LOOK_UP = new Vector3(-0.22, -1, 0.24).normalize();

/** The three.js part of the model view, loaded after the page. Renders on demand only. */
interface Props {
  solid: ShadedSolid;
  map: SurfaceMap | null;
  /** Which of the views that may stand beside each other this is; they share one eye. */
  view: string;
  layer?: StageLayer;
  /** How it is printed, where that shows. */
  look?: PrintLook;
  /** What a picture of the stage is called; none is taken without. */
  pictured?: string;
  /** Told once the solid is on the screen. */
  onDrawn?: (solid: ShadedSolid) => void;
}

const AS_IT_IS: PrintLook = { printing: null, cutAbove: null };

function ModelStage({ solid, map, view, layer, look = AS_IT_IS, pictured, onDrawn }: Props) {
  const geometry = useMemo(() => geometryOf(solid, map), [solid, map]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  const { x, y, z } = geometry.boundingBox?.max ?? UNIT;
  const reach = Math.hypot(x, y, z);
  const { standing } = solid;
  return (
    <Canvas
      frameloop="demand"
      shadows="percentage"
      dpr={1}
      gl={{ antialias: true, preserveDrawingBuffer: true }}
      key={standing ? "standing" : "lying"}
      camera={{ fov: FOV_DEG, near: reach / 50, far: reach * 20, up: standing ? [0, 0, 1] : [0, 1, 0] }}
    >
      <Stage
        geometry={geometry}
        sheet={map ? null : (solid.sheet ?? null)}
        standing={standing}
        coloured={map !== null}
        painted={map === null && solid.colours !== undefined}
        low={solid.low}
        size={[x, y, z]}
        reach={reach}
        view={view}
        layer={layer}
        print={look}
        pictured={pictured}
        onDrawn={() => onDrawn?.(solid)}
      />
    </Canvas>
  );
}

export default memo(ModelStage);

interface StageProps {
  geometry: BufferGeometry;
  sheet: SheetOnSolid | null;
  standing: boolean;
  coloured: boolean;
  /** Whether the solid has colours of its own. */
  painted: boolean;
  low: Size;
  size: Size;
  reach: number;
  view: string;
  layer: StageLayer | undefined;
  print: PrintLook;
  pictured: string | undefined;
  onDrawn: () => void;
}

function Stage({ geometry, sheet, standing, coloured, painted, low, size, reach, view, layer: Layer, print, pictured, onDrawn }: StageProps) {
  const lampOn = useBenchStore((state) => state.lampOn);
  const { transmission: lit } = useLook();
  const look = lampOn ? lit : null;
  const sameAsModel = useRef(false);
  const wire = useBenchStore((state) => state.wire);
  const surface = useJudgingStore((state) => state.surface);
  const set = useBenchStore((state) => state.set);
  const [width, depth, thick] = size;
  const up = useMemo(() => upOf(print.printing), [print.printing]);
  const lowest = useMemo(() => lowestAlong(geometry, up), [geometry, up]);
  const clip = useClip(up, lowest, print.cutAbove?.head.to_mm ?? null, size);
  const bands = print.printing?.bands;
  const banded = bands?.on && bands.changes.length > 0 && !coloured ? bands : null;
  const tinted = painted || banded !== null;

  // Looking where the pointer is goes through every triangle; while it turns the model nobody asks.
  const turned = useRef(false);
  const lamp = useRef<DirectionalLight>(null);
  const sky = useRef<DirectionalLight>(null);
  const around = useRef<HemisphereLight>(null);
  const still = useRef<(() => void) | null>(null);
  // What is measured is told by colours alone, and a lamp behind the piece has a light of its own.
  const soft = useJudgingStore((state) => state.soft) && !coloured && !(sheet && look);
  function whereHit(this: Mesh, ray: Raycaster, hits: Intersection[]) {
    if (!turned.current) Mesh.prototype.raycast.call(this, ray, hits);
  }
  const placeOf = (event: ThreeEvent<PointerEvent>): Place => [
    event.point.x + width / 2 + low[0],
    event.point.y + depth / 2 + low[1],
    event.point.z + thick / 2 + low[2],
  ];
  const onMove = (event: ThreeEvent<PointerEvent>) => {
    event.stopPropagation();
    useHandStore.getState().hand?.move(placeOf(event), (event.buttons & 1) === 1, pressureOf(event));
    if (sameAsModel.current) set({ cursor: { x: event.point.x + width / 2, y: event.point.y + depth / 2 } });
  };
  const onDown = (event: ThreeEvent<PointerEvent>) => {
    if (event.button === 0) useHandStore.getState().hand?.press(placeOf(event), pressureOf(event));
  };
  const onClick = (event: ThreeEvent<MouseEvent>) => {
    const { mode, keep } = usePoseStore.getState();
    if (mode === "face" && event.face && event.delta <= 3) {
      event.stopPropagation();
      keep?.(turnDown(event.face.normal));
      return;
    }
    const { measuring, picked } = useBenchStore.getState();
    if (!measuring || event.delta > 3) return;
    event.stopPropagation();
    const place: Place = [event.point.x + width / 2, event.point.y + depth / 2, event.point.z + thick / 2];
    set({ picked: picked.length === 2 ? [place] : [...picked, place] });
  };
  return (
    <>
      <hemisphereLight ref={around} args={["#f4efe4", tinted ? "#8b8f90" : "#4a4f52", coloured ? 1.9 : tinted ? 2.2 : 0.62]} position={[0, 0, 1]} />
      {soft && <RestingLight lampRef={lamp} skyRef={sky} aroundRef={around} size={size} stillRef={still} />}
      <directionalLight ref={sky} visible={false} castShadow shadow-mapSize={[1024, 1024]}>
        <orthographicCamera attach="shadow-camera" args={[-reach, reach, reach, -reach, reach * 0.5, reach * 2.5]} />
      </directionalLight>
      <Lamp ref={lamp} reach={reach} standing={standing} painted={tinted} />
      <FittedShadows lampRef={lamp} of={geometry} size={size} cast={!coloured} cut={print.cutAbove?.head.layer} />
      {/* What was turned by hand is drawn anew as it is kept, so the hand's own turn goes with the old solid. */}
      <PoseRings key={geometry.uuid} reach={reach}>
      <group position={[-width / 2, -depth / 2, -thick / 2]}>
        <mesh
          geometry={geometry}
          castShadow={!coloured}
          receiveShadow={!coloured}
          raycast={whereHit}
          onPointerMove={onMove}
          onPointerDown={onDown}
          onPointerOut={() => set({ cursor: null })}
          onClick={onClick}
        >
          {sheet && look ? (
            <TransmissionMaterial sheet={sheet} look={look} standing={standing} />
          ) : banded ? (
            <BandedMaterial bands={banded} up={up} low={lowest} clip={clip} />
          ) : surface !== "plaster" && !coloured && !painted ? (
            <SurfaceMaterial surface={surface} reach={reach} clip={clip} />
          ) : (
            <meshLambertMaterial
              key={`${coloured ? "coloured" : painted ? "painted" : "plain"} ${clip ? "cut" : "whole"}`}
              clippingPlanes={clip}
              clipShadows
              side={clip ? DoubleSide : FrontSide}
              vertexColors={coloured || painted}
              color={coloured || painted ? "#ffffff" : "#e9dfcd"}
              polygonOffset
              polygonOffsetFactor={1}
              polygonOffsetUnits={1}
            />
          )}
        </mesh>
        {wire && (
          <mesh geometry={geometry} raycast={() => null}>
            <meshBasicMaterial color="#17423a" wireframe transparent opacity={0.55} clippingPlanes={clip} />
          </mesh>
        )}
        {print.cutAbove && <LayerCap layer={print.cutAbove} colour={print.cutAbove.head.colour ?? CAP} />}
        <CursorPin height={thick} reach={reach} />
        <PickedPlaces reach={reach} />
        {Layer && (
          <Suspense fallback={null}>
            <Layer low={low} reach={reach} />
          </Suspense>
        )}
      </group>
      </PoseRings>
      <SameAsModel toldRef={sameAsModel} />
      <SharedEye view={view} turnedRef={turned} />
      <FirstLook size={size} standing={standing} />
      <Turning />
      {pictured !== undefined && <PictureTaker name={pictured} stillRef={still} />}
      <FrameTimer onDrawn={onDrawn} />
    </>
  );
}

const pressureOf = ({ pointerType, pressure }: { pointerType: string; pressure: number }) => (pointerType === "pen" ? pressure : 1);

/** Tells whether places on the plan are those of the model. By itself, since every new plan would draw the stage anew. */
function SameAsModel({ toldRef }: { toldRef: RefObject<boolean> }) {
  const same = useSameAsModel();
  useEffect(() => {
    toldRef.current = same;
  }, [toldRef, same]);
  return null;
}

/** The plane above which nothing is drawn; null where all of it is. */
function useClip(up: Vector3, lowest: number, upToMm: number | null, [width, depth, thick]: Size): Plane[] | null {
  const gl = useThree((state) => state.gl);
  const invalidate = useThree((state) => state.invalidate);
  const planes = useMemo(() => {
    if (upToMm === null) return null;
    // The solid is drawn with its middle at the origin.
    const middle = (up.x * width + up.y * depth + up.z * thick) / 2;
    return [new Plane(up.clone().negate(), upToMm + lowest - middle)];
  }, [up, lowest, upToMm, width, depth, thick]);
  useEffect(() => {
    Object.assign(gl, { localClippingEnabled: planes !== null });
    invalidate();
  }, [gl, invalidate, planes]);
  return planes;
}

interface Controls {
  target: Vector3;
  update: () => void;
}

/**
 * Step back until the piece fills the stage when it is new or of other proportions; when only the stage changes, go on
 * looking the same way, as much nearer or further as that asks for.
 */
function FirstLook({ size, standing }: { size: Size; standing: boolean }) {
  const [width, depth, thick] = standing ? [size[0], size[2], size[1]] : size;
  const camera = useThree((state) => state.camera);
  const controls = useThree((state) => state.controls) as Controls | null;
  const invalidate = useThree((state) => state.invalidate);
  const aspect = useThree((state) => state.size.width / state.size.height);
  const shared = useBenchStore((state) => state.beside !== null);
  const before = useRef<{ piece: string; distance: number } | null>(null);
  useEffect(() => {
    const half = Math.tan((FOV_DEG * Math.PI) / 360);
    const distance = (Math.max(depth, width / aspect) / 2 / half) * 1.16 + thick;
    const piece = [width, depth, thick, standing].join();
    const target = controls?.target ?? new Vector3();
    if (before.current?.piece === piece && shared) {
      // Both stages write the eye that they share, so a share of where it is now would count twice.
      camera.position.sub(target).setLength(distance).add(target);
    } else if (before.current?.piece === piece) {
      camera.position.sub(target).multiplyScalar(distance / before.current.distance).add(target);
    } else {
      target.set(0, 0, 0);
      camera.position.copy(standing ? FIRST_LOOK_UP : FIRST_LOOK).multiplyScalar(distance);
    }
    before.current = { piece, distance };
    camera.lookAt(target);
    controls?.update();
    invalidate();
  }, [camera, controls, invalidate, width, depth, thick, aspect, standing, shared]);
  return null;
}

/** Turns the eye round the piece for as long as that is asked for. */
function Turning() {
  const turning = useBenchStore((state) => state.turning);
  const camera = useThree((state) => state.camera);
  const controls = useThree((state) => state.controls) as Controls | null;
  const invalidate = useThree((state) => state.invalidate);
  useEffect(() => {
    if (turning) invalidate();
  }, [turning, invalidate]);
  useFrame((_, seconds) => {
    if (!turning || !controls) return;
    // After a pause the first frame would tell all of it.
    const angle = (2 * Math.PI * Math.min(seconds, 0.1)) / TURN_SECONDS;
    camera.position.sub(controls.target).applyAxisAngle(camera.up, angle).add(controls.target);
    controls.update();
    invalidate();
  });
  return null;
}

interface LampProps {
  ref: Ref<DirectionalLight>;
  reach: number;
  standing: boolean;
  painted: boolean;
}

function Lamp({ ref, reach, standing, painted }: LampProps) {
  const { fromDeg, aboveDeg } = useBenchStore((state) => state.light);
  const from = (fromDeg * Math.PI) / 180;
  const above = (aboveDeg * Math.PI) / 180;
  const away = reach * 1.5;
  const half = reach * 0.55;
  const [right, up, out] = [Math.cos(above) * Math.cos(from), Math.cos(above) * Math.sin(from), Math.sin(above)];
  const [x, y, z] = standing ? [away * right, -away * out, away * up] : [away * right, away * up, away * out];
  return (
    <>
    {/* What looks away from the lamp is not black: one sees it when the piece turns. */}
    <directionalLight color="#dfe6ee" intensity={painted ? 3 : 1.1} position={[-x, y, -z]} />
    <directionalLight
      ref={ref}
      color="#fff2dc"
      intensity={painted ? 4.2 : 3.1}
      position={[x, y, z]}
      castShadow
      shadow-mapSize={[2048, 2048]}
    >
      <orthographicCamera attach="shadow-camera" args={[-half, half, half, -half, reach * 0.5, reach * 2.5]} />
    </directionalLight>
    </>
  );
}

/** The shared cursor on the model. */
function CursorPin({ height, reach }: { height: number; reach: number }) {
  // While something is dragged, every move of the pointer would draw the stage anew.
  const dragged = useBenchStore((state) => state.draft !== null);
  const pointed = useCursorOnModel();
  const cursor = dragged ? null : pointed;
  const busy = useDecorStore((state) => state.fresh !== null || state.grip !== null || state.tool !== null || state.chosen !== null);
  const invalidate = useThree((state) => state.invalidate);
  useEffect(() => invalidate(), [cursor, invalidate]);
  if (!cursor || busy) return null;
  return (
    <mesh position={[cursor.x, cursor.y, height * 1.02]} rotation={[Math.PI / 2, 0, 0]} raycast={() => null}>
      <cylinderGeometry args={[reach / 350, reach / 350, height * 0.9, 8]} />
      <meshBasicMaterial color="#c4432d" />
    </mesh>
  );
}

/** sRGB bytes with opacity as the linear colours that three.js takes. */
function paints(bytes: Uint8Array): Float32Array {
  const colours = new Float32Array((bytes.length / 4) * 3);
  const colour = new Color();
  for (let at = 0; at < bytes.length / 4; at++) {
    colour.setRGB((bytes[4 * at] ?? 0) / 255, (bytes[4 * at + 1] ?? 0) / 255, (bytes[4 * at + 2] ?? 0) / 255, SRGBColorSpace).toArray(colours, 3 * at);
  }
  return colours;
}

function geometryOf(solid: ShadedSolid, map: SurfaceMap | null): BufferGeometry {
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(solid.positions, 3));
  geometry.setAttribute("normal", new BufferAttribute(solid.normals, 3, true));
  if (map) geometry.setAttribute("color", new BufferAttribute(mapColours(map.head, map.values), 3));
  else if (solid.colours) geometry.setAttribute("color", new BufferAttribute(paints(solid.colours), 3));
  if (solid.sheet) geometry.setAttribute("place", new BufferAttribute(solid.sheet.places, 3));
  geometry.setIndex(new BufferAttribute(solid.faces, 1));
  geometry.computeBoundingBox();
  const box = geometry.boundingBox;
  if (box) geometry.boundingSphere = box.getBoundingSphere(new Sphere());
  return geometry;
}
