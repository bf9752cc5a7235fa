import { describe, expect, it } from "vitest";
import type { OpKind } from "../../../api/ops";
import { firstLook, lookedAt } from "./lookedAt";

const OPS = [
  { kind: "crop", id: "a", on: true },
  { kind: "snap", id: "b", on: true },
];

describe("where the Plan looks", () => {
  it("follows the op that is worked on", () => {
    expect(lookedAt(OPS, "b", "in")).toBe("a");
    expect(lookedAt(OPS, "a", "in")).toBe("");
    expect(lookedAt(OPS, "b", "out")).toBe("b");
  });

  it("sees the finished picture when no op is open or the open one is gone", () => {
    expect(lookedAt(OPS, null, "in")).toBeNull();
    expect(lookedAt(OPS, "gone", "out")).toBeNull();
    expect(lookedAt(OPS, "b", "end")).toBeNull();
  });

  it("opens tools where they work", () => {
    const kind = (tool: string) => ({ tool }) as OpKind;
    const op = { kind: "cut-out", id: "c", on: true, by: "auto" };
    expect(firstLook(op, kind("box"))).toBe("in");
    expect(firstLook(op, kind("brush"))).toBe("out");
    expect(firstLook(op, kind("marks"))).toBe("out");
    expect(firstLook({ ...op, by: "marks" }, kind("marks"))).toBe("in");
    expect(firstLook(op, undefined)).toBe("end");
    expect(firstLook(null, kind("box"))).toBe("end");
  });
});
