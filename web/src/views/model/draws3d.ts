let found: boolean | null = null;

/** Whether this browser draws anything in 3D; asked once, on a canvas that nobody sees. */
export function draws3d(): boolean {
  found ??= document.createElement("canvas").getContext("webgl2") !== null;
  return found;
}
