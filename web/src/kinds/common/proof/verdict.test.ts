import { expect, test } from "vitest";
import type { Finding } from "../../../api/client";
import { verdictOf } from "./verdict";

const finding = (severity: Finding["severity"]) => ({ severity, what: "", why: "", measure: "" }) as Finding;

test("one fault outweighs everything else", () => {
  const verdict = verdictOf([finding("note"), finding("caution"), finding("fault")], true);
  expect(verdict.mood).toBe("fault");
  expect(verdict.what).toContain("1 fault");
});

test("cautions are counted, notes are not", () => {
  expect(verdictOf([finding("caution"), finding("caution"), finding("note")], false).what).toContain("2 things");
});

test("ready is said only of what was built", () => {
  expect(verdictOf([finding("note")], true).what).toBe("Ready to be made.");
  expect(verdictOf([], false).what).not.toContain("Ready");
});
