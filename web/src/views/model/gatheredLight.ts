import {
  CustomBlending,
  HalfFloatType,
  Mesh,
  NoBlending,
  OneFactor,
  OrthographicCamera,
  PlaneGeometry,
  Scene,
  ShaderMaterial,
  Vector2,
  WebGLRenderTarget,
  type Box3,
  type Camera,
  type DirectionalLight,
  type HemisphereLight,
  type WebGLRenderer,
} from "three";
import { fitShadow } from "./lampShadow";
import { lampWay, skyWay } from "./lightWays";

/** How wide the lamp is seen, from its middle out. */
const LAMP_DEG = 4.5;
/** Light from everywhere alike brings a plane a quarter of what it would straight from above. */
const SKY_TIMES = 4;

/** The lights of a stage: the lamp, the sky that is drawn as many lamps, and the light from around that it stands for. */
export interface StageLights {
  lamp: DirectionalLight;
  sky: DirectionalLight;
  around: HemisphereLight;
}

interface Drawn {
  gl: WebGLRenderer;
  scene: Scene;
  camera: Camera;
}

/**
 * The stage in the light of a lamp that is as wide as lamps are and of a sky that the piece itself hides: the mean of many
 * pictures, each with the lamp at another place of itself and one part of the sky.
 */
export class GatheredLight {
  count = 0;
  readonly #frame: WebGLRenderTarget;
  readonly #sum: WebGLRenderTarget;
  readonly #quad = new Mesh(new PlaneGeometry(2, 2));
  readonly #flat = new Scene();
  readonly #eye = new OrthographicCamera();
  readonly #add = passOf("gl_FragColor = texture2D(seen, place);", { blending: CustomBlending, blendSrc: OneFactor, blendDst: OneFactor });
  readonly #show = passOf(
    `vec4 mean = texture2D(seen, place) * share;
    gl_FragColor = vec4(mean.a > 0.0 ? mean.rgb / mean.a : vec3(0.0), mean.a);
    #include <tonemapping_fragment>
    #include <colorspace_fragment>
    gl_FragColor.rgb *= gl_FragColor.a;`,
    { blending: NoBlending, toneMapped: true },
  );

  constructor(
    private readonly drawn: Drawn,
    private readonly lights: StageLights,
    private readonly box: Box3,
  ) {
    const { x, y } = drawn.gl.getDrawingBufferSize(new Vector2());
    this.#frame = new WebGLRenderTarget(x, y, { samples: 4, type: HalfFloatType });
    this.#sum = new WebGLRenderTarget(x, y, { type: HalfFloatType, depthBuffer: false });
    this.#quad.frustumCulled = false;
    this.#flat.add(this.#quad);
  }

  /** One more picture; everything is as it was afterwards. */
  add(): void {
    const { gl, scene, camera } = this.drawn;
    const { lamp, sky, around } = this.lights;
    const [lampAt, bright, clears] = [lamp.position.clone(), around.intensity, gl.autoClear];
    const way = skyWay(this.count);
    lamp.position.copy(lampWay(lampAt, LAMP_DEG, this.count));
    sky.position.copy(way).setLength(lampAt.length());
    sky.color.copy(around.groundColor).lerp(around.color, (way.z + 1) / 2);
    sky.intensity = SKY_TIMES * bright;
    sky.visible = true;
    around.intensity = 0;
    fitShadow(lamp, camera, this.box);
    fitShadow(sky, camera, this.box);
    gl.shadowMap.needsUpdate = true;
    gl.setRenderTarget(this.#frame);
    gl.clear();
    gl.render(scene, camera);
    sky.visible = false;
    around.intensity = bright;
    lamp.position.copy(lampAt);
    fitShadow(lamp, camera, this.box);
    gl.shadowMap.needsUpdate = true;
    gl.setRenderTarget(this.#sum);
    if (this.count === 0) gl.clear();
    gl.autoClear = false;
    this.#pass(this.#add, this.#frame, 1);
    gl.autoClear = clears;
    gl.setRenderTarget(null);
    this.count += 1;
  }

  /** Their mean, on the screen. */
  show(): void {
    this.drawn.gl.setRenderTarget(null);
    this.#pass(this.#show, this.#sum, 1 / Math.max(this.count, 1));
  }

  dispose(): void {
    for (const each of [this.#frame, this.#sum, this.#add, this.#show, this.#quad.geometry]) each.dispose();
  }

  #pass(material: ShaderMaterial, from: WebGLRenderTarget, share: number): void {
    Object.assign(material.uniforms, { seen: { value: from.texture }, share: { value: share } });
    this.#quad.material = material;
    this.drawn.gl.render(this.#flat, this.#eye);
  }
}

function passOf(body: string, more: Partial<ShaderMaterial>): ShaderMaterial {
  const made = new ShaderMaterial({
    uniforms: { seen: { value: null }, share: { value: 1 } },
    vertexShader: "varying vec2 place;\nvoid main() { place = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }",
    fragmentShader: `uniform sampler2D seen;\nuniform float share;\nvarying vec2 place;\nvoid main() {\n${body}\n}`,
    depthTest: false,
    depthWrite: false,
    toneMapped: false,
  });
  return Object.assign(made, more);
}

