import { describe, expect, it } from "vitest";
import { besides } from "./reference";

describe("besides", () => {
  it("chooses what is nearest in size", () => {
    expect(besides(40, 3).name).toContain("matchstick");
    expect(besides(80, 55).name).toContain("bank card");
    expect(besides(300, 200).name).toContain("A4");
  });

  it("makes room for both side by side", () => {
    const beside = besides(60, 70);
    expect(beside.span).toBeCloseTo(85.6 + 6 + 60 + 1);
    expect(beside.tall).toBeCloseTo(71);
  });
});
