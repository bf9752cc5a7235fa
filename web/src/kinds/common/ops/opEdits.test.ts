import { describe, expect, it } from "vitest";
import type { OpKind } from "../../../api/ops";
import { idBefore, moved, newOp, withAdded, withCopy, without, withParameters } from "./opEdits";

const op = (id: string, kind = "invert") => ({ kind, id, on: true });
const ids = (ops: readonly { id: string }[]) => ops.map((each) => each.id).join("");
const ABC = [op("a"), op("b"), op("c")];

describe("editing the list of ops", () => {
  it("moves an op to a place, also past the ends", () => {
    expect(ids(moved(ABC, "a", 2))).toBe("bca");
    expect(ids(moved(ABC, "c", 0))).toBe("cab");
    expect(ids(moved(ABC, "b", 99))).toBe("acb");
    expect(ids(moved(ABC, "b", -1))).toBe("bac");
    expect(ids(moved(ABC, "x", 0))).toBe("abc");
  });

  it("copies an op right behind itself under a name of its own", () => {
    const { ops, id } = withCopy([{ ...op("a"), depth: { mm: 2 } }, op("b")], "a");
    expect(ops).toHaveLength(3);
    expect(ops[1]).toEqual({ ...op("a"), depth: { mm: 2 }, id });
    expect(id).not.toBe("a");
    expect(ops[1]?.depth).not.toBe(ops[0]?.depth);
  });

  it("changes and removes one op only", () => {
    expect(withParameters(ABC, "b", { on: false }).map((each) => each.on)).toEqual([true, false, true]);
    expect(ids(without(ABC, "b"))).toBe("ac");
  });

  it("adds repairs of the file first and everything else last", () => {
    expect(ids(withAdded(ABC, op("x", "deblock")))).toBe("xabc");
    expect(ids(withAdded(ABC, op("x", "snap")))).toBe("abcx");
  });

  it("knows what an op starts from", () => {
    expect(idBefore(ABC, "a")).toBe("");
    expect(idBefore(ABC, "c")).toBe("b");
  });

  it("starts an op from its defaults without sharing them", () => {
    const kind = { kind: "crop", defaults: { box: { left: 0 } } } as unknown as OpKind;
    const made = newOp(kind, { aspect: "free" });
    expect(made).toMatchObject({ kind: "crop", on: true, box: { left: 0 }, aspect: "free" });
    expect(made.box).not.toBe(kind.defaults.box);
    expect(newOp(kind).id).not.toBe(made.id);
  });
});
