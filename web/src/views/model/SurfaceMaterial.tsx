import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { DoubleSide, FrontSide, MeshPhongMaterial, type Plane, type WebGLProgramParametersWithUniforms } from "three";
import type { Surface } from "../../state/judgingStore";

interface Props {
  surface: Exclude<Surface, "plaster">;
  /** The diagonal of the piece, mm: grain is as fine as it is on a thing of that size. */
  reach: number;
  clip: Plane[] | null;
}

interface Finish {
  colour: string;
  specular: string;
  shininess: number;
  /** How the colour goes on over the place, in GLSL: `tint` is changed by `place`, in hundredths of the piece. */
  grain: string;
}

const FINISHES: Record<Props["surface"], Finish> = {
  clay: {
    colour: "#b08d76",
    specular: "#221c18",
    shininess: 8,
    grain: "tint *= 0.93 + 0.14 * layered(place * 0.9);",
  },
  bronze: {
    colour: "#7d5730",
    specular: "#e8bf86",
    shininess: 38,
    // A breath of verdigris, in large soft patches.
    grain: `float patina = smoothstep(0.4, 0.85, layered(place * 0.22));
      tint = mix(tint * (0.92 + 0.16 * layered(place * 0.9)), vec3(0.13, 0.2, 0.16), 0.3 * patina);`,
  },
  wood: {
    colour: "#b98a55",
    specular: "#3a2c1c",
    shininess: 18,
    // Rings of a trunk that lies along the piece, a little crooked, and fine fibres.
    grain: `vec2 across = place.yz * vec2(0.10, 0.35) + vec2(3.0, 1.5) + 0.5 * (layered(place * vec3(0.02, 0.08, 0.08)) - 0.5);
      float ring = fract(length(across) * 4.5);
      float late = smoothstep(0.45, 0.95, ring) * (1.0 - smoothstep(0.95, 1.0, ring));
      float fibre = layered(place * vec3(0.25, 6.0, 6.0));
      tint *= (1.06 - 0.34 * late) * (0.9 + 0.2 * fibre);`,
  },
  stone: {
    colour: "#b6b1a6",
    specular: "#1c1c1c",
    shininess: 10,
    grain: `float speck = hashed(floor(place * 5.0));
      tint *= (0.86 + 0.24 * layered(place * 0.8)) * (speck > 0.93 ? 0.72 : speck < 0.05 ? 1.16 : 1.0);`,
  },
};

const NOISE = `
varying vec3 surfacePlace;
uniform float surfaceScale;
float hashed(vec3 at) {
  at = fract(at * vec3(0.1031, 0.1030, 0.0973));
  at += dot(at, at.yxz + 33.33);
  return fract((at.x + at.y) * at.z);
}
float smoothed(vec3 at) {
  vec3 cell = floor(at), within = fract(at);
  within = within * within * (3.0 - 2.0 * within);
  vec2 step = vec2(0.0, 1.0);
  return mix(
    mix(mix(hashed(cell), hashed(cell + step.yxx), within.x), mix(hashed(cell + step.xyx), hashed(cell + step.yyx), within.x), within.y),
    mix(mix(hashed(cell + step.xxy), hashed(cell + step.yxy), within.x), mix(hashed(cell + step.xyy), hashed(cell + step.yyy), within.x), within.y),
    within.z);
}
float layered(vec3 at) {
  return 0.5 * smoothed(at) + 0.3 * smoothed(at * 2.1 + 7.3) + 0.2 * smoothed(at * 4.3 + 1.7);
}`;

/** Clay, bronze, wood or stone, all of it worked out from the place, so that no seam and no picture is needed. */
export function SurfaceMaterial({ surface, reach, clip }: Props) {
  const invalidate = useThree((state) => state.invalidate);
  const material = useMemo(() => {
    const { colour: color, specular, shininess, grain } = FINISHES[surface];
    const made = new MeshPhongMaterial({
      color,
      specular,
      shininess,
      side: clip ? DoubleSide : FrontSide,
      clippingPlanes: clip,
      clipShadows: true,
      polygonOffset: true,
      polygonOffsetFactor: 1,
      polygonOffsetUnits: 1,
    });
    made.onBeforeCompile = (program) => withGrain(program, grain, 100 / reach);
    made.customProgramCacheKey = () => surface;
    return made;
  }, [surface, reach, clip]);
  useEffect(() => {
    invalidate();
    return () => material.dispose();
  }, [material, invalidate]);
  return <primitive object={material} attach="material" />;
}

function withGrain(program: WebGLProgramParametersWithUniforms, grain: string, scale: number): void {
  Object.assign(program.uniforms, { surfaceScale: { value: scale } });
  program.vertexShader = program.vertexShader
    .replace("#include <common>", "#include <common>\nvarying vec3 surfacePlace;")
    .replace("#include <begin_vertex>", "#include <begin_vertex>\nsurfacePlace = position;");
  program.fragmentShader = program.fragmentShader
    .replace("#include <common>", `#include <common>\n${NOISE}`)
    .replace(
      "#include <color_fragment>",
      `#include <color_fragment>
      vec3 place = surfacePlace * surfaceScale, tint = diffuseColor.rgb;
      ${grain}
      diffuseColor.rgb = tint;`,
    );
}
