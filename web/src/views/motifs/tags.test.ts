import { describe, expect, it } from "vitest";
import { tagsIn } from "./tags";

describe("tagsIn", () => {
  it("parts a line at its commas, each tag once", () => {
    expect(tagsIn(" leaf, trail ,, leaf")).toEqual(["leaf", "trail"]);
    expect(tagsIn("")).toEqual([]);
  });
});
