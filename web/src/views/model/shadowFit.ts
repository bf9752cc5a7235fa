import { Box3, Frustum, Matrix4, Ray, Vector3, type Camera, type OrthographicCamera } from "three";

/** Shadows are drawn so much wider than what is seen, for soft edges and a hand that is not quite still. */
const MARGIN = 0.06;

export interface ShadowBounds {
  left: number;
  right: number;
  bottom: number;
  top: number;
}

/**
 * What of a box is seen, as the lamp sees it: the least bounds in the plane of its shadows that hold all of that.
 *
 * What is seen of the box has its corners where edges of the box enter and leave what the eye sees, and where the eye's
 * own corners enter and leave the box. So the nearer one looks, the finer the same number of shadow texels is. Null
 * where nothing of the box is seen.
 */
export function boundsOfSeen(eye: Camera, lamp: OrthographicCamera, box: Box3): ShadowBounds | null {
  eye.updateMatrixWorld();
  const toLamp = new Matrix4().copy(lamp.matrixWorld).invert();
  const seen = new Box3();
  for (const corner of [...edgesSeen(eye, box), ...cornersSeen(eye, box)]) seen.expandByPoint(corner.applyMatrix4(toLamp));
  if (seen.isEmpty()) return null;
  const whole = boundsOfAll(lamp, box);
  const [wide, tall] = [seen.max.x - seen.min.x, seen.max.y - seen.min.y];
  return {
    left: Math.max(seen.min.x - MARGIN * wide, whole.left),
    right: Math.min(seen.max.x + MARGIN * wide, whole.right),
    bottom: Math.max(seen.min.y - MARGIN * tall, whole.bottom),
    top: Math.min(seen.max.y + MARGIN * tall, whole.top),
  };
}

/** Both ends of what is seen of every edge of a box. */
function edgesSeen(eye: Camera, box: Box3): Vector3[] {
  const frustum = new Frustum().setFromProjectionMatrix(new Matrix4().multiplyMatrices(eye.projectionMatrix, eye.matrixWorldInverse));
  const corners = Array.from({ length: 8 }, (_, at) =>
    new Vector3(at & 1 ? box.max.x : box.min.x, at & 2 ? box.max.y : box.min.y, at & 4 ? box.max.z : box.min.z),
  );
  return corners.flatMap((start, at) =>
    [1, 2, 4].filter((axis) => !(at & axis)).flatMap((axis) => {
      const end = corners[at | axis] ?? start;
      let [from, to] = [0, 1];
      for (const plane of frustum.planes) {
        const [here, there] = [plane.distanceToPoint(start), plane.distanceToPoint(end)];
        if (here < 0 && there < 0) return [];
        if (here < 0) from = Math.max(from, here / (here - there));
        if (there < 0) to = Math.min(to, here / (here - there));
      }
      return from <= to ? [start.clone().lerp(end, from), start.clone().lerp(end, to)] : [];
    }),
  );
}

/** Where the four rays through the corners of the picture enter and leave a box. */
function cornersSeen(eye: Camera, box: Box3): Vector3[] {
  return [[-1, -1], [1, -1], [-1, 1], [1, 1]].flatMap(([x = 0, y = 0]) => {
    const [near, far] = [new Vector3(x, y, -1).unproject(eye), new Vector3(x, y, 1).unproject(eye)];
    const way = far.clone().sub(near).normalize();
    const entered = box.containsPoint(near) ? near.clone() : new Ray(near, way).intersectBox(box, new Vector3());
    if (!entered) return [];
    // The way back from far outside enters where the way there leaves.
    return [entered, new Ray(far, way.negate()).intersectBox(box, new Vector3()) ?? entered];
  });
}

/** The same for all of a box. */
export function boundsOfAll(lamp: OrthographicCamera, box: Box3): ShadowBounds {
  const all = box.clone().applyMatrix4(new Matrix4().copy(lamp.matrixWorld).invert());
  const slack = MARGIN * Math.max(all.max.x - all.min.x, all.max.y - all.min.y);
  return { left: all.min.x - slack, right: all.max.x + slack, bottom: all.min.y - slack, top: all.max.y + slack };
}
