import { useEffect, useMemo } from "react";
import { useThree } from "@react-three/fiber";
import { Color, DoubleSide, FrontSide, MeshLambertMaterial, type Vector3, type Plane, type WebGLProgramParametersWithUniforms } from "three";
import type { ColourBands } from "../../api/client";

/** As many changes as a document holds, and the colour below. */
const MOST = 17;

interface Props {
  bands: ColourBands;
  up: Vector3;
  /** How far along it the lowest place lies. */
  low: number;
  clip: Plane[] | null;
}

/** Plaster in the colours of its layers, which change at heights over the plate. */
export function BandedMaterial({ bands, up, low, clip }: Props) {
  const invalidate = useThree((state) => state.invalidate);
  // Materials alike share one program, so making one anew costs nothing.
  const material = useMemo(() => {
    const made = new MeshLambertMaterial({
      color: "#ffffff",
      side: clip ? DoubleSide : FrontSide,
      clippingPlanes: clip,
      clipShadows: true,
      polygonOffset: true,
      polygonOffsetFactor: 1,
      polygonOffsetUnits: 1,
    });
    const uniforms = uniformsOf(bands, up, low);
    made.onBeforeCompile = (program) => inBands(program, uniforms);
    return made;
  }, [bands, up, low, clip]);
  useEffect(() => {
    invalidate();
    return () => material.dispose();
  }, [material, invalidate]);
  return <primitive object={material} attach="material" />;
}

function uniformsOf(bands: ColourBands, up: Vector3, low: number) {
  const from = Array.from({ length: MOST }, (_, at) => (at === 0 ? -1e9 : (bands.changes[at - 1]?.from_mm ?? 1e9)));
  const tints = [bands.colour, ...bands.changes.map(({ colour }) => colour)];
  return {
    bandUp: { value: up },
    bandLow: { value: low },
    bandFrom: { value: from },
    bandTint: { value: Array.from({ length: MOST }, (_, at) => new Color(tints[at] ?? "#ffffff")) },
  };
}

function inBands(program: WebGLProgramParametersWithUniforms, uniforms: Record<string, { value: unknown }>): void {
  Object.assign(program.uniforms, uniforms);
  program.vertexShader = program.vertexShader
    .replace("#include <common>", "#include <common>\nvarying vec3 bandPlace;")
    .replace("#include <begin_vertex>", "#include <begin_vertex>\nbandPlace = position;");
  program.fragmentShader = program.fragmentShader
    .replace(
      "#include <common>",
      `#include <common>\nvarying vec3 bandPlace;\nuniform vec3 bandUp;\nuniform float bandLow;\nuniform float bandFrom[${MOST}];\nuniform vec3 bandTint[${MOST}];`,
    )
    .replace(
      "#include <color_fragment>",
      `#include <color_fragment>
      float bandHigh = dot(bandPlace, bandUp) - bandLow;
      for (int band = 0; band < ${MOST}; band++) if (bandHigh >= bandFrom[band]) diffuseColor.rgb = bandTint[band];`,
    );
}
