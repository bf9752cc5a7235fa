// @vitest-environment happy-dom
import { freshServer } from "../testing/server";
import { cleanup, renderHook, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { freshClient, onPage } from "../testing/page";
import type { JobView, PieceView } from "./client";
import { useConnection } from "./connection";
import { listenTogether, type Told } from "./news";
import { NewsDesk } from "./newsDesk";
import { keys } from "./pieces";
import { useProgress } from "./progress";
import { useNews } from "./useNews";

/** A stream that the test sends by. */
class Stream extends EventTarget {
  static all: Stream[] = [];
  onopen = () => {};
  onerror = () => {};
  close = vi.fn();

  constructor(readonly url: string) {
    super();
    Stream.all.push(this);
  }

  send(event: string, data: unknown): void {
    this.dispatchEvent(new MessageEvent(event, { data: JSON.stringify(data) }));
  }
}

const stream = () => Stream.all.at(-1) as Stream;

beforeEach(() => {
  freshServer();
  Stream.all = [];
  vi.stubGlobal("EventSource", Stream);
  useConnection.setState({ connected: true });
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("a page", () => {
  const begin = () => {
    const client = freshClient();
    const { unmount } = renderHook(() => useNews(), { wrapper: onPage(client) });
    return { client, unmount };
  };

  test("takes in jobs, pieces and previews", async () => {
    const { client, unmount } = begin();
    expect(stream().url).toBe("/api/events");
    client.setQueryData(keys.jobs("p1"), []);
    client.setQueryData(keys.piece("p1"), { id: "p1", revision: 3 } as PieceView);
    stream().send("job", { id: "j1", piece_id: "p1", state: "running", created: "2026-01-01T10:00:00Z" });
    await waitFor(() => expect(client.getQueryData<JobView[]>(keys.jobs("p1"))?.[0]?.id).toBe("j1"));
    stream().send("piece", { id: "p1", revision: 3 });
    expect(client.getQueryState(keys.piece("p1"))?.isInvalidated).toBe(false);
    stream().send("piece", { id: "p1", revision: 4 });
    expect(client.getQueryState(keys.piece("p1"))?.isInvalidated).toBe(true);
    stream().send("preview", { piece_id: "p1", stage: "Tracing", fraction: 0.5 });
    expect(useProgress.getState()).toMatchObject({ pieceId: "p1", stage: "Tracing", fraction: 0.5 });
    unmount();
    expect(stream().close).toHaveBeenCalledOnce();
  });

  test("asks for everything anew once the server answers again", () => {
    const { client } = begin();
    client.setQueryData(keys.shelf, []);
    stream().onopen();
    expect(client.getQueryState(keys.shelf)?.isInvalidated).toBe(false);
    stream().onerror();
    expect(useConnection.getState().connected).toBe(false);
    stream().onopen();
    expect(useConnection.getState().connected).toBe(true);
    expect(client.getQueryState(keys.shelf)?.isInvalidated).toBe(true);
  });
});

test("pages share a stream where they can, and say when they leave", () => {
  const port = { postMessage: vi.fn(), close: vi.fn(), onmessage: undefined as unknown as (news: MessageEvent<Told>) => void };
  const made: unknown[][] = [];
  const workers: { onerror: () => void }[] = [];
  vi.stubGlobal(
    "SharedWorker",
    class {
      port = port;
      onerror = () => {};
      constructor(...given: unknown[]) {
        made.push(given);
        workers.push(this);
      }
    },
  );
  const told: Told[] = [];
  const stop = listenTogether((news) => told.push(news));
  expect(made[0]?.[1]).toEqual({ type: "module", name: "news" });
  expect(Stream.all).toHaveLength(0);
  port.onmessage(new MessageEvent("message", { data: { open: true } }));
  expect(told).toEqual([{ open: true }]);
  window.dispatchEvent(new Event("pagehide"));
  expect(port.postMessage).toHaveBeenCalledExactlyOnceWith("leave");
  window.dispatchEvent(Object.assign(new Event("pageshow"), { persisted: false }));
  expect(made).toHaveLength(1);
  window.dispatchEvent(Object.assign(new Event("pageshow"), { persisted: true }));
  expect(made).toHaveLength(2);
  workers.at(-1)?.onerror();
  expect(Stream.all).toHaveLength(1);
  expect(port.postMessage).toHaveBeenCalledTimes(2);
  stop();
  expect(stream().close).toHaveBeenCalledOnce();
  window.dispatchEvent(new Event("pagehide"));
  window.dispatchEvent(Object.assign(new Event("pageshow"), { persisted: true }));
  expect(port.postMessage).toHaveBeenCalledTimes(2);
  expect(made).toHaveLength(2);
});

test("the desk has one stream for all, tells those who come later how it stands, and ends with the last", () => {
  let tell: (told: Told) => void = () => {};
  const stop = vi.fn();
  const begin = vi.fn((given: typeof tell) => {
    tell = given;
    return stop;
  });
  const desk = new NewsDesk(begin);
  const pages = [{ postMessage: vi.fn() }, { postMessage: vi.fn() }] as const;
  desk.enter(pages[0]);
  expect(pages[0].postMessage).not.toHaveBeenCalled();
  tell({ open: true });
  desk.enter(pages[1]);
  expect(begin).toHaveBeenCalledOnce();
  expect(pages[1].postMessage).toHaveBeenLastCalledWith({ open: true });
  tell({ event: "piece", data: "{}" });
  for (const page of pages) expect(page.postMessage).toHaveBeenLastCalledWith({ event: "piece", data: "{}" });
  desk.leave(pages[0]);
  tell({ open: false });
  expect(pages[0].postMessage).toHaveBeenCalledTimes(2);
  expect(stop).not.toHaveBeenCalled();
  desk.leave(pages[1]);
  expect(stop).toHaveBeenCalledOnce();
  desk.enter(pages[0]);
  expect(begin).toHaveBeenCalledTimes(2);
  expect(pages[0].postMessage).toHaveBeenCalledTimes(2);
});
