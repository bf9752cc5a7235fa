import { useThree, type ThreeEvent } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { BufferAttribute, BufferGeometry, LinearFilter, ShaderMaterial, TextureLoader, Vector3, type Texture } from "three";
import { liftedCorners } from "./lifted";
import { artUrl, type Placement, type Triple } from "../../../api/decorations";
import { useDecorStore, type Grip } from "../../../state/decorStore";
import { useBrush, type BrushHow } from "../../../state/brushStore";

const VERTEX = `
attribute vec2 share;
attribute float stretch;
uniform float nearer;
varying vec2 vShare;
varying float vStretch;
void main() {
  vShare = share;
  vStretch = stretch;
  vec4 seen = modelViewMatrix * vec4(position, 1.0);
  gl_Position = projectionMatrix * seen;
  // Drawn where the skin is, and judged as if it stood over what is raised there.
  vec4 over = projectionMatrix * (seen + vec4(0.0, 0.0, nearer, 0.0));
  gl_Position.z = over.z / over.w * gl_Position.w;
}`;

const FRAGMENT = `
uniform sampler2D art;
uniform float filled;
uniform float stretched;
uniform vec2 rim;
varying vec2 vShare;
varying float vStretch;
void main() {
  if (vShare.x < 0.0 || vShare.x > 1.0 || vShare.y < 0.0 || vShare.y > 1.0) discard;
  vec2 inner = min(vShare, 1.0 - vShare);
  // Never thinner than what a screen draws without gaps, also where the skin turns away; soft by a pixel.
  vec2 pixel = fwidth(vShare);
  vec2 line = max(rim, 1.2 * pixel);
  vec2 on = 1.0 - smoothstep(line - 0.5 * pixel, line + 0.5 * pixel, inner);
  float edge = 0.95 * max(on.x, on.y);
  float shape = texture2D(art, vShare).a * filled;
  vec3 colour = vec3(0.17, 0.44, 0.38);
  float cover = max(edge, 0.8 * shape);
  if (stretched > 0.5) {
    float amount = clamp(vStretch / 0.3, 0.0, 1.0);
    vec3 heat = mix(vec3(0.36, 0.62, 0.55), vec3(0.80, 0.28, 0.16), amount);
    colour = mix(heat, colour, edge);
    cover = max(edge, 0.72);
  }
  if (cover < 0.02) discard;
  gl_FragColor = vec4(colour, cover);
}`;

/** How wide the frame round a decoration is: of its smaller side, and at the most. */
const RIM_SHARE = 0.02;
const RIM_MM = 0.35;
const HANDLE_COLOUR = "#2c6f62";

interface Props {
  low: Triple;
  reach: number;
}

/** Where the decoration in hand would lie, with places to hold it by, and what is being drawn on the model. */
export default function DecorLayer({ low, reach }: Props) {
  const placement = useDecorStore((state) => state.placement);
  const placed = useDecorStore((state) => state.placed);
  const inHand = useDecorStore((state) => state.fresh !== null || state.grip !== null);
  const chosen = useDecorStore((state) => state.chosen);
  const tool = useDecorStore((state) => state.tool);
  const trail = useDecorStore((state) => state.trail);
  const stretchShown = useDecorStore((state) => state.stretchShown);
  const invalidate = useThree((state) => state.invalidate);
  const region = useBrush((state) => (state.how.within === "region" ? state.how.region : null));
  useEffect(() => invalidate(), [placement, placed, inHand, trail, stretchShown, tool, region, invalidate]);
  const shown = placement && placed && (inHand || chosen === placed.id) && (tool === null || tool === "lay");
  return (
    <group position={[-low[0], -low[1], -low[2]]}>
      {shown && (
        <>
          <Decal placement={placement} url={artUrl(placed.art)} lift={placed.effect === "raise" || placed.effect === "both" ? placed.depth_mm : 0} filled={inHand} stretched={stretchShown} reach={reach} />
          <Guides placement={placement} depth={placed.effect === "sink" ? -placed.depth_mm : placed.depth_mm} reach={reach} />
          {chosen === placed.id && <Grips placement={placement} reach={reach} />}
        </>
      )}
      <Trail trail={trail} reach={reach} />
      {region && (tool === "brush" || tool === "paint") && <Region region={region} reach={reach} />}
    </group>
  );
}

interface DecalProps {
  placement: Placement;
  url: string;
  /** How far it reaches over the skin, mm. */
  lift: number;
  filled: boolean;
  stretched: boolean;
  reach: number;
}

function Decal({ placement, url, lift, filled, stretched, reach }: DecalProps) {
  const invalidate = useThree((state) => state.invalidate);
  const geometry = useMemo(() => decalGeometry(placement, reach / 1500), [placement, reach]);
  const material = useMemo(
    () =>
      new ShaderMaterial({
        vertexShader: VERTEX,
        fragmentShader: FRAGMENT,
        uniforms: { nearer: { value: 0 }, art: { value: null }, filled: { value: 1 }, stretched: { value: 0 }, rim: { value: [0.02, 0.02] } },
        transparent: true,
        depthWrite: false,
      }),
    [],
  );
  const texture = useMemo(() => loaded(url, invalidate), [url, invalidate]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  useEffect(() => () => material.dispose(), [material]);
  useEffect(() => () => texture.dispose(), [texture]);
  useEffect(() => {
    const [width, height] = placement.head.size_mm;
    const rim = Math.min(RIM_MM, RIM_SHARE * Math.min(width, height));
    const values = { nearer: lift + reach / 350, art: texture, filled: filled ? 1 : 0, stretched: stretched ? 1 : 0, rim: [rim / width, rim / height] };
    for (const [name, value] of Object.entries(values)) setUniform(material, name, value);
    invalidate();
  }, [material, texture, filled, stretched, placement, lift, reach, invalidate]);
  return <mesh geometry={geometry} material={material} renderOrder={1} {...grip("middle")} />;
}

function setUniform(material: ShaderMaterial, name: string, value: unknown) {
  const uniform = material.uniforms[name];
  if (uniform) uniform.value = value;
}

/** The way out of the skin, as deep as it goes, and the way up. */
function Guides({ placement, depth, reach }: { placement: Placement; depth: number; reach: number }) {
  const { at, out, up, size_mm } = placement.head;
  const lines = useMemo(() => {
    const from = new Vector3(...at);
    const along = (way: Triple, mm: number) => from.clone().addScaledVector(new Vector3(...way), mm);
    const pin = Math.min(Math.max(Math.abs(depth) * 1.6, reach / 30), Math.max(...size_mm) / 2);
    const tip = along(out, pin);
    const mark = along(out, depth > 0 ? depth : pin * 0.5);
    const tick = new Vector3(...up).multiplyScalar(reach / 120);
    const high = along(up, size_mm[1] * 0.62);
    return new BufferGeometry().setFromPoints([from, tip, mark.clone().sub(tick), mark.clone().add(tick), from, high]);
  }, [at, out, up, size_mm, depth, reach]);
  useEffect(() => () => lines.dispose(), [lines]);
  return (
    <lineSegments geometry={lines} renderOrder={3} raycast={() => null}>
      <lineBasicMaterial color="#c4432d" depthTest={false} transparent />
    </lineSegments>
  );
}

function Grips({ placement, reach }: { placement: Placement; reach: number }) {
  return (
    <>
      {placement.head.handles.slice(0, 4).map(
        (place, at) =>
          place && (
            <mesh key={at} position={[...place]} renderOrder={4} {...grip("corner")}>
              <sphereGeometry args={[reach / 78, 16, 12]} />
              <meshBasicMaterial color={HANDLE_COLOUR} depthTest={false} transparent />
            </mesh>
          ),
      )}
    </>
  );
}

function Trail({ trail, reach }: { trail: readonly Triple[]; reach: number }) {
  const tool = useDecorStore((state) => state.tool);
  const radius = useBrush((state) => state.how.radius_mm);
  const broad = tool === "brush" || tool === "paint";
  const size = broad ? radius : reach / 160;
  return (
    <>
      {trail.slice(-60).map((place, at) => (
        <mesh key={at} position={[...place]} renderOrder={3} raycast={() => null}>
          <sphereGeometry args={[size, 16, 12]} />
          <meshBasicMaterial color="#c4432d" transparent opacity={broad ? 0.12 : 0.8} depthWrite={false} />
        </mesh>
      ))}
    </>
  );
}

/** What strokes keep to: the line that encircles it, or what was painted. */
function Region({ region, reach }: { region: BrushHow["region"]; reach: number }) {
  const painted = region.kind === "brush";
  const loop = useMemo(() => new BufferGeometry().setFromPoints(region.places.map((place) => new Vector3(...place))), [region]);
  useEffect(() => () => loop.dispose(), [loop]);
  if (!painted) {
    return (
      <lineLoop geometry={loop} renderOrder={3} raycast={() => null}>
        <lineBasicMaterial color={HANDLE_COLOUR} depthTest={false} transparent />
      </lineLoop>
    );
  }
  return (
    <>
      {region.places.map((place, at) => (
        <mesh key={at} position={[...place]} renderOrder={3} raycast={() => null}>
          <sphereGeometry args={[Math.max(region.radius_mm, reach / 300), 12, 8]} />
          <meshBasicMaterial color={HANDLE_COLOUR} transparent opacity={0.06} depthWrite={false} />
        </mesh>
      ))}
    </>
  );
}

/** What takes hold of the chosen decoration where it is pressed. */
function grip(kind: Grip) {
  return {
    onPointerDown: (event: ThreeEvent<PointerEvent>) => {
      const { chosen, tool, set } = useDecorStore.getState();
      if (!chosen || tool || event.button !== 0) return;
      // A corner lies over the middle's own surface, which would take hold as well.
      if (kind === "corner") event.stopPropagation();
      set({ grip: kind });
    },
  };
}

function loaded(url: string, then: () => void): Texture {
  const texture = new TextureLoader().load(url, then);
  texture.minFilter = texture.magFilter = LinearFilter;
  texture.generateMipmaps = false;
  return texture;
}

function decalGeometry({ corners, shares, stretch }: Placement, lift: number): BufferGeometry {
  const positions = liftedCorners(corners, lift);
  const values = new Float32Array(corners.length / 3);
  for (let face = 0; face < corners.length / 9; face++) values.fill(stretch[face] ?? 0, 3 * face, 3 * face + 3);
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(positions, 3));
  geometry.setAttribute("share", new BufferAttribute(shares, 2));
  geometry.setAttribute("stretch", new BufferAttribute(values, 1));
  return geometry;
}
