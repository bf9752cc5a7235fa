import { expect, test } from "vitest";
import type { JobView } from "./client";
import { withJob } from "./jobList";

const job = (id: string, state: JobView["state"], fraction = 0) => ({ id, state, fraction }) as JobView;

test("a new job comes first", () => {
  expect(withJob([job("a", "done")], job("b", "waiting")).map(({ id }) => id)).toEqual(["b", "a"]);
});

test("news moves a job on", () => {
  expect(withJob([job("a", "running", 0.2)], job("a", "running", 0.6))[0]?.fraction).toBe(0.6);
  expect(withJob([job("a", "running")], job("a", "failed"))[0]?.state).toBe("failed");
});

test("an answer that comes late does not take back what the news told", () => {
  expect(withJob([job("a", "done")], job("a", "waiting"))[0]?.state).toBe("done");
});
