/** Arrays as `api/frame.py` packs them. */

const MAGIC = 0x3146424e;

export type Numbers = Float32Array | Uint32Array | Uint16Array | Uint8Array | Int8Array;

interface Listed {
  name: string;
  dtype: string;
  shape: number[];
  offset: number;
}

export interface Frame<Head> {
  head: Head;
  arrays: Map<string, { shape: number[]; values: Numbers }>;
}

const MAKERS: Record<string, (buffer: ArrayBuffer, offset: number, length: number) => Numbers> = {
  float32: (buffer, offset, length) => new Float32Array(buffer, offset, length),
  uint32: (buffer, offset, length) => new Uint32Array(buffer, offset, length),
  uint16: (buffer, offset, length) => new Uint16Array(buffer, offset, length),
  uint8: (buffer, offset, length) => new Uint8Array(buffer, offset, length),
  int8: (buffer, offset, length) => new Int8Array(buffer, offset, length),
};

export function unpackFrame<Head>(buffer: ArrayBuffer): Frame<Head> {
  const view = new DataView(buffer);
  if (buffer.byteLength < 8 || view.getUint32(0, true) !== MAGIC) throw new Error("This is not a frame of arrays.");
  const headerLength = view.getUint32(4, true);
  const start = 8 + headerLength;
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 8, headerLength))) as {
    head: Head;
    arrays: Listed[];
  };
  const arrays: Frame<Head>["arrays"] = new Map();
  for (const { name, dtype, shape, offset } of header.arrays) {
    const make = MAKERS[dtype];
    if (!make) throw new Error(`The array ${name} holds ${dtype}, which this page does not know.`);
    const length = shape.reduce((product, side) => product * side, 1);
    arrays.set(name, { shape, values: make(buffer, start + offset, length) });
  }
  return { head: header.head, arrays };
}

/** The named array, which must hold numbers of the given kind. */
export function arrayOf<Kind extends Numbers>(
  frame: Frame<unknown>,
  name: string,
  kind: new (...args: never[]) => Kind,
): { shape: number[]; values: Kind } {
  const found = frame.arrays.get(name);
  if (!found || !(found.values instanceof kind)) throw new Error(`The frame has no array ${name} of this kind.`);
  return { shape: found.shape, values: found.values };
}
