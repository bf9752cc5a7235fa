import { Box3, OrthographicCamera, PerspectiveCamera, Vector3 } from "three";
import { expect, test } from "vitest";
import { boundsOfAll, boundsOfSeen, type ShadowBounds } from "./shadowFit";

const BOX = new Box3(new Vector3(-50, -30, -2), new Vector3(50, 30, 2));

function lampFrom(x: number, y: number, z: number): OrthographicCamera {
  const lamp = new OrthographicCamera(-1, 1, 1, -1, 1, 500);
  lamp.position.set(x, y, z);
  lamp.lookAt(0, 0, 0);
  lamp.updateMatrixWorld();
  return lamp;
}

function eyeAt(x: number, y: number, z: number, to = new Vector3(x, y, 0)): PerspectiveCamera {
  const eye = new PerspectiveCamera(28, 1.5, 0.1, 1000);
  eye.position.set(x, y, z);
  eye.lookAt(to);
  eye.updateProjectionMatrix();
  eye.updateMatrixWorld();
  return eye;
}

const width = (bounds: ShadowBounds | null) => (bounds ? bounds.right - bounds.left : 0);

test("from far away shadows are those of all of the piece", () => {
  const lamp = lampFrom(60, 80, 120);
  const [all, seen] = [boundsOfAll(lamp, BOX), boundsOfSeen(eyeAt(0, 0, 400), lamp, BOX)];
  expect(width(seen)).toBeGreaterThan(0.8 * width(all));
  expect(width(seen)).toBeLessThanOrEqual(width(all));
});

test("the nearer the eye, the finer they are, and they hold what it sees", () => {
  const lamp = lampFrom(0, 0, 150);
  const near = boundsOfSeen(eyeAt(20, 10, 12), lamp, BOX);
  expect(width(near)).toBeLessThan(0.12 * width(boundsOfAll(lamp, BOX)));
  expect(near?.left).toBeLessThan(20 - 3);
  expect(near?.right).toBeGreaterThan(20 + 3);
  expect(near?.bottom).toBeLessThan(10);
  expect(near?.top).toBeGreaterThan(10);
});

test("where nothing of the piece is seen there is nothing to draw for", () => {
  expect(boundsOfSeen(eyeAt(0, 0, 100, new Vector3(0, 0, 300)), lampFrom(60, 80, 120), BOX)).toBeNull();
});
