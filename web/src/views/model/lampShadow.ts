import { Vector3, type Box3, type Camera, type DirectionalLight, type OrthographicCamera } from "three";
import { boundsOfAll, boundsOfSeen } from "./shadowFit";

/** Shadows begin so many texels above the surface that casts them, and their edges are so much of the piece soft. */
const OFF_TEXELS = 2;
const SOFT_SHARE = 1 / 900;
const MOST_SOFT_TEXELS = 3.5;

/** Aim what a lamp draws shadows with at what of a box an eye sees, or at all of it where there is no eye. */
export function fitShadow(lamp: DirectionalLight, eye: Camera | null, box: Box3): void {
  const { shadow } = lamp;
  const aimed = aim(lamp);
  const whole = boundsOfAll(aimed, box);
  const bounds = (eye && boundsOfSeen(eye, aimed, box)) ?? whole;
  Object.assign(shadow.camera, bounds);
  shadow.camera.updateProjectionMatrix();
  const texel = Math.max(bounds.right - bounds.left, bounds.top - bounds.bottom) / shadow.mapSize.x;
  const reach = box.getSize(new Vector3()).length() / 2;
  shadow.normalBias = OFF_TEXELS * texel;
  shadow.bias = (-0.5 * texel) / (shadow.camera.far - shadow.camera.near);
  shadow.radius = Math.min(MOST_SOFT_TEXELS, Math.max(1, (SOFT_SHARE * reach) / texel));
}

/** The eye that a lamp draws shadows with, turned to where it shines. */
function aim(lamp: DirectionalLight): OrthographicCamera {
  const eye = lamp.shadow.camera;
  lamp.updateMatrixWorld();
  lamp.target.updateMatrixWorld();
  eye.position.setFromMatrixPosition(lamp.matrixWorld);
  eye.lookAt(new Vector3().setFromMatrixPosition(lamp.target.matrixWorld));
  eye.updateMatrixWorld();
  return eye;
}
