import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { ClampToEdgeWrapping, DataTexture, DataUtils, HalfFloatType, LinearFilter, RedFormat, RepeatWrapping, ShaderMaterial, Vector3 } from "three";
import type { SheetOnSolid } from "../../api/preview";
import { useBenchStore, type Light } from "../../state/benchStore";
import { LUMINANCE, UNLIT_WHITE } from "../transmission";
import type { TransmissionLook } from "../../state/previews";

const VERTEX = `
attribute vec3 place;
varying vec3 vPlace;
varying vec3 vNormal;
void main() {
  vPlace = place;
  vNormal = normalize(normal);
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
}`;

const FRAGMENT = `
uniform sampler2D through;
uniform sampler2D filtered;
uniform bool coloured;
uniform float attenuation;
uniform float thinnest;
uniform float power;
uniform float ambient;
uniform float white;
uniform vec3 tint;
uniform vec3 lamp;
varying vec3 vPlace;
varying vec3 vNormal;
float encoded(float light) {
  float held = clamp(light, 0.0, 1.0);
  return held <= 0.0031308 ? 12.92 * held : 1.055 * pow(held, 1.0 / 2.4) - 0.055;
}
float light(float tone) {
  return tone <= 0.04045 ? tone / 12.92 : pow((tone + 0.055) / 1.055, 2.4);
}
vec3 colour() {
  if (!coloured) return tint;
  vec3 tones = texture2D(filtered, vec2(vPlace.x, vPlace.y)).rgb;
  vec3 given = vec3(light(tones.r), light(tones.g), light(tones.b));
  return tint * given / max(1e-6, dot(given, vec3(${LUMINANCE.join(", ")})));
}
void main() {
  float mm = texture2D(through, vec2(vPlace.x, vPlace.y)).r;
  vec3 passed = vec3(0.0);
  // Partly beside the sheet is an edge of the wall: nothing is known of what light passes there.
  if (vPlace.z > 0.99) passed = power * exp(-attenuation * max(mm - thinnest, -thinnest)) * colour();
  if (vPlace.z < -0.99) passed = power * tint;
  vec3 normal = normalize(vNormal);
  float room = ambient * white * (0.55 + 0.6 * max(0.0, dot(normal, lamp)));
  vec3 seen = passed + vec3(room);
  gl_FragColor = vec4(encoded(seen.r), encoded(seen.g), encoded(seen.b), 1.0);
}`;

interface Props {
  sheet: SheetOnSolid;
  look: TransmissionLook;
  standing: boolean;
}

/** A wall with a lamp behind it: what comes through follows from its thickness along the form's normal. */
export function TransmissionMaterial({ sheet, look, standing }: Props) {
  const invalidate = useThree((state) => state.invalidate);
  const light = useBenchStore((state) => state.light);
  const texture = useMemo(() => textureOf(sheet), [sheet]);
  const filtered = useMemo(() => filteredOf(sheet), [sheet]);
  const material = useMemo(
    () =>
      new ShaderMaterial({
        vertexShader: VERTEX,
        fragmentShader: FRAGMENT,
        uniforms: {
          through: { value: null },
          filtered: { value: null },
          coloured: { value: false },
          attenuation: { value: 1 },
          thinnest: { value: 1 },
          power: { value: 1 },
          ambient: { value: 0 },
          white: { value: UNLIT_WHITE },
          tint: { value: new Vector3(1, 1, 1) },
          lamp: { value: new Vector3(0, 0, 1) },
        },
        polygonOffset: true,
        polygonOffsetFactor: 1,
        polygonOffsetUnits: 1,
      }),
    [],
  );
  useEffect(() => () => texture.dispose(), [texture]);
  useEffect(() => () => filtered?.dispose(), [filtered]);
  useEffect(() => () => material.dispose(), [material]);
  useEffect(() => {
    const values = { through: texture, filtered, coloured: filtered !== null, attenuation: look.attenuation, thinnest: look.thinnest, power: look.power, ambient: look.ambient };
    for (const [name, value] of Object.entries(values)) setUniform(material, name, value);
    setUniform(material, "tint", new Vector3(...look.tint));
    setUniform(material, "lamp", towards(light, standing));
    invalidate();
  }, [material, texture, filtered, look, light, standing, invalidate]);
  return <primitive object={material} attach="material" />;
}

function setUniform(material: ShaderMaterial, name: string, value: unknown) {
  const uniform = material.uniforms[name];
  if (uniform) uniform.value = value;
}

/** Where the light of the room comes from: as the dial says to an eye in front. */
function towards({ fromDeg, aboveDeg }: Light, standing: boolean): Vector3 {
  const [from, above] = [(fromDeg * Math.PI) / 180, (aboveDeg * Math.PI) / 180];
  const [right, up, out] = [Math.cos(above) * Math.cos(from), Math.cos(above) * Math.sin(from), Math.sin(above)];
  return standing ? new Vector3(right, -out, up) : new Vector3(right, up, out);
}

function textureOf({ around, through }: SheetOnSolid): DataTexture {
  const { rows, columns, mm } = through;
  const data = new Uint16Array(rows * columns);
  // Textures have their first row below, sheets above.
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns; column++) {
      data[(rows - 1 - row) * columns + column] = DataUtils.toHalfFloat(mm[row * columns + column] ?? 0);
    }
  }
  return placed(new DataTexture(data, columns, rows, RedFormat, HalfFloatType), around);
}

function filteredOf({ around, through: { rows, columns }, lit }: SheetOnSolid): DataTexture | null {
  if (!lit) return null;
  const data = new Uint8Array(4 * rows * columns).fill(255);
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns; column++) {
      const from = 3 * (row * columns + column);
      data.set(lit.subarray(from, from + 3), 4 * ((rows - 1 - row) * columns + column));
    }
  }
  return placed(new DataTexture(data, columns, rows), around);
}

function placed(texture: DataTexture, around: boolean): DataTexture {
  texture.minFilter = texture.magFilter = LinearFilter;
  texture.wrapS = around ? RepeatWrapping : ClampToEdgeWrapping;
  texture.wrapT = ClampToEdgeWrapping;
  texture.unpackAlignment = 2;
  texture.needsUpdate = true;
  return texture;
}
