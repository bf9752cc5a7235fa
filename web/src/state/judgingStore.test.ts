// @vitest-environment happy-dom
import { beforeEach, expect, test } from "vitest";
import { remembered, useJudgingStore } from "./judgingStore";

beforeEach(() => globalThis.localStorage.clear());

test("what is chosen and kept is there again the next time", () => {
  useJudgingStore.getState().choose("bronze");
  useJudgingStore.getState().keepLight(1, { fromDeg: 10, aboveDeg: 20 });
  expect(remembered().surface).toBe("bronze");
  expect(remembered().lights[1]).toEqual({ fromDeg: 10, aboveDeg: 20 });
  expect(remembered().lights).toHaveLength(3);
});

test.each(["{", '"wood"', '{"surface":"gold","lights":[{"fromDeg":"x"},null,3]}'])("what is not as it should be counts for nothing: %s", (kept) => {
  globalThis.localStorage.setItem("nebrel-judging", kept);
  expect(remembered().surface).toBe("plaster");
  expect(remembered().lights[0]).toEqual({ fromDeg: 140, aboveDeg: 24 });
});
