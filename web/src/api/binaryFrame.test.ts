import { describe, expect, it } from "vitest";
import { arrayOf, unpackFrame } from "./binaryFrame";

function packed(header: unknown, body: number[]): ArrayBuffer {
  let text = JSON.stringify(header);
  while (text.length % 4) text += " ";
  const head = new TextEncoder().encode(text);
  const bytes = new Uint8Array(8 + head.length + body.length);
  bytes.set([0x4e, 0x42, 0x46, 0x31]);
  new DataView(bytes.buffer).setUint32(4, head.length, true);
  bytes.set(head, 8);
  bytes.set(body, 8 + head.length);
  return bytes.buffer;
}

describe("unpackFrame", () => {
  const listing = { name: "tones", dtype: "uint16", shape: [1, 2], offset: 0 };

  it("gives head and arrays with their shapes", () => {
    const frame = unpackFrame<{ pitch: number }>(packed({ head: { pitch: 0.5 }, arrays: [listing] }, [1, 0, 255, 255]));
    expect(frame.head.pitch).toBe(0.5);
    const tones = arrayOf(frame, "tones", Uint16Array);
    expect(tones.shape).toEqual([1, 2]);
    expect([...tones.values]).toEqual([1, 65535]);
  });

  it("refuses other bytes, unknown kinds and missing arrays", () => {
    expect(() => unpackFrame(new ArrayBuffer(12))).toThrow("not a frame");
    expect(() => unpackFrame(packed({ head: {}, arrays: [{ ...listing, dtype: "float64" }] }, [0, 0, 0, 0]))).toThrow(
      "float64",
    );
    const frame = unpackFrame(packed({ head: {}, arrays: [listing] }, [0, 0, 0, 0]));
    expect(() => arrayOf(frame, "heights", Float32Array)).toThrow("heights");
    expect(() => arrayOf(frame, "tones", Float32Array)).toThrow("tones");
  });
});
