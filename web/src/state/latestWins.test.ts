import { expect, it } from "vitest";
import { LatestWins } from "./latestWins";

function gated() {
  const started: string[] = [];
  const finished: string[] = [];
  const errors: unknown[] = [];
  const gates: { open: () => void; fail: (reason: Error) => void }[] = [];
  const loop = new LatestWins<string, string>(
    (request) => {
      started.push(request);
      return new Promise((open, fail) => gates.push({ open: () => open(request), fail }));
    },
    (result) => finished.push(result),
    (error) => errors.push(error),
  );
  const settle = async () => {
    for (let turn = 0; turn < 5; turn++) await Promise.resolve();
  };
  return { loop, started, finished, errors, gates, settle };
}

it("skips what was overtaken while a task ran", async () => {
  const { loop, started, finished, gates, settle } = gated();
  loop.ask("a");
  loop.ask("b");
  loop.ask("c");
  expect(started).toEqual(["a"]);
  gates[0]?.open();
  await settle();
  expect(started).toEqual(["a", "c"]);
  gates[1]?.open();
  await settle();
  expect(finished).toEqual(["a", "c"]);
});

it("goes on after a failure and keeps silent once stopped", async () => {
  const { loop, finished, errors, gates, settle } = gated();
  loop.ask("a");
  gates[0]?.fail(new Error("no"));
  await settle();
  expect(errors).toHaveLength(1);
  loop.ask("b");
  loop.stop();
  gates[1]?.open();
  await settle();
  expect(finished).toEqual([]);
});
